"""Files kept beside the database, found by the hash of their contents."""

from __future__ import annotations

import hashlib
import os
import secrets
from pathlib import Path

from assayer.core.errors import DataFolderError
from assayer.store.folder import sync_folder


class FileStore:
    """Content-addressed files below one folder; a file is complete or not there."""

    def __init__(self, folder: Path, durable: bool = True) -> None:
        self.folder = folder
        self.durable = durable

    def put(self, data: bytes) -> str:
        """Keep `data` durably and return its SHA-256 in hex."""
        digest = hashlib.sha256(data).hexdigest()
        target = self.path(digest)
        if target.exists():
            return digest
        partial = target.with_name(f"{digest}.{secrets.token_hex(4)}.part")
        try:
            made = not target.parent.exists()
            target.parent.mkdir(parents=True, exist_ok=True)
            with partial.open("wb") as file:
                file.write(data)
                file.flush()
                if self.durable:
                    os.fsync(file.fileno())
            partial.replace(target)
            if self.durable:
                # the entry that names the file must reach the disk before the reading that points at it
                for changed in (target.parent, *((self.folder, self.folder.parent) if made else ())):
                    sync_folder(changed)
        except OSError as error:
            partial.unlink(missing_ok=True)
            raise DataFolderError(f"cannot keep the file in '{self.folder}': {error.strerror or error}") from None
        return digest

    def path(self, digest: str) -> Path:
        return self.folder / digest[:2] / digest
