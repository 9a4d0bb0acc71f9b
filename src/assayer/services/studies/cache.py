"""Answers about tests, kept in this process by the revision of their data, so that nothing older is ever given out."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock


class EvidenceCache:
    """Answers about tests, by the revision of their data; the oldest go first."""

    def __init__(self, size: int = 400) -> None:
        self._size = size
        self._kept: OrderedDict[tuple[object, ...], str] = OrderedDict()
        self._lock = Lock()

    def get(self, key: tuple[object, ...]) -> str | None:
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
            return found

    def put(self, key: tuple[object, ...], answer: str) -> None:
        with self._lock:
            self._kept[key] = answer
            while len(self._kept) > self._size:
                self._kept.popitem(last=False)
