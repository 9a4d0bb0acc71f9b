"""Turns at the one thing that only one may do at a time: first come, first served."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock


class Turns:
    """A lock that is handed on in the order in which it was asked for.

    SQLite lets writers that wait try again at random moments: under steady load one of them can starve.
    """

    def __init__(self) -> None:
        self._guard = Lock()
        self._taken = False
        self._waiting: deque[Lock] = deque()

    @contextmanager
    def mine(self) -> Iterator[None]:
        """Wait for one's turn, and hand it on at the end."""
        own: Lock | None = None
        with self._guard:
            if self._taken:
                own = Lock()
                own.acquire()
                self._waiting.append(own)
            self._taken = True
        if own is not None:
            # released by the one before, who leaves the turn taken
            own.acquire()
        try:
            yield
        finally:
            with self._guard:
                if self._waiting:
                    self._waiting.popleft().release()
                else:
                    self._taken = False
