"""Answers kept in this process under what they follow from, so that nothing older is ever given out."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

from cachetools import LRUCache

Value = TypeVar("Value")
_NOTHING = object()


class Kept(Generic[Value]):
    """The answers asked for last, at most so many; safe between threads.

    A key holds the revision of all that its answer follows from: a change makes another key, the old answer goes
    when it has not been asked for long enough.
    """

    def __init__(self, most: int) -> None:
        self._answers: LRUCache[Hashable, Value] = LRUCache(most)
        self._lock = Lock()

    def get(self, key: Hashable) -> Value | None:
        with self._lock:
            return self._answers.get(key)

    def put(self, key: Hashable, answer: Value) -> None:
        with self._lock:
            self._answers[key] = answer

    def of(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """The answer, made where it is not there; two who ask at once may both make it, none waits for the other."""
        with self._lock:
            found = self._answers.get(key, _NOTHING)
        if found is _NOTHING:
            found = make()
            self.put(key, found)
        return found  # type: ignore[return-value]
