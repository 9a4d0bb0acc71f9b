"""Files kept beside the database, found by the hash of their contents."""

from __future__ import annotations

import hashlib
import os
import secrets
import time
from contextlib import suppress
from pathlib import Path

from assayer.core.errors import DataFolderError
from assayer.store.folder import sync_folder

NAMED: tuple[tuple[str, str], ...] = (("curves", "sha256"), ("photos", "sha256"), ("photos", "thumb_sha256"), ("gcode_files", "sha256"), ("parts", "sha256"))
"""Columns of the database that name a kept file."""

_STALE = 86_400.0


class FileStore:
    """Content-addressed files below one folder; a file is complete or not there."""

    def __init__(self, folder: Path, durable: bool = True) -> None:
        self.folder = folder
        self.durable = durable

    def put(self, data: bytes) -> str:
        """Keep `data` durably and return its SHA-256 in hex."""
        with self.incoming() as coming:
            coming.write(data)
            return coming.keep()

    def incoming(self) -> Incoming:
        """Room for a file that comes in pieces; dropped unless it is kept."""
        return Incoming(self)

    def sweep(self) -> None:
        """Drop what was on its way in when a server was killed, a day or more ago."""
        before = time.time() - _STALE
        for left in self.folder.glob("*.part"):
            with suppress(OSError):
                if left.stat().st_mtime < before:
                    left.unlink()

    def path(self, digest: str) -> Path:
        return self.folder / digest[:2] / digest


class Incoming:
    """A file on its way in: written beside the kept ones, and one of them once it is whole."""

    def __init__(self, store: FileStore) -> None:
        self._store = store
        self._hash = hashlib.sha256()
        self.size = 0
        try:
            store.folder.mkdir(parents=True, exist_ok=True)
            self.path = store.folder / f"{secrets.token_hex(8)}.part"
            self._file = self.path.open("wb")
        except OSError as error:
            raise self._full(error) from None

    def __enter__(self) -> Incoming:
        return self

    def __exit__(self, *_: object) -> None:
        self.drop()

    def drop(self) -> None:
        """It is not kept after all; what was kept stays."""
        self._file.close()
        self.path.unlink(missing_ok=True)

    def write(self, data: bytes) -> None:
        try:
            self._file.write(data)
        except OSError as error:
            raise self._full(error) from None
        self._hash.update(data)
        self.size += len(data)

    def finish(self) -> None:
        """All of it has come: it may be read at `path`."""
        try:
            self._file.flush()
        except OSError as error:
            raise self._full(error) from None

    def keep(self) -> str:
        """Keep it durably and return its SHA-256 in hex."""
        digest = self._hash.hexdigest()
        target = self._store.path(digest)
        try:
            self._file.flush()
            if target.exists():
                return digest
            if self._store.durable:
                os.fsync(self._file.fileno())
            made = not target.parent.exists()
            target.parent.mkdir(parents=True, exist_ok=True)
            self.path.replace(target)
            if self._store.durable:
                # the entry that names the file must reach the disk before the reading that points at it
                for changed in (target.parent, *((self._store.folder, self._store.folder.parent) if made else ())):
                    sync_folder(changed)
        except OSError as error:
            raise self._full(error) from None
        return digest

    def _full(self, error: OSError) -> DataFolderError:
        return DataFolderError(f"cannot keep the file in '{self._store.folder}': {error.strerror or error}")
