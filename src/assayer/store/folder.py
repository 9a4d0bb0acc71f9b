"""What lies in a data folder, told from its bytes before SQLite touches them.

SQLite takes up whatever write-ahead file lies beside a database, whether or not it belongs to it. So each opening
that finds none leaves a token in the database's header and in a marker beside it: where a write-ahead file was left
by a crash, the two must be the same, else the database was exchanged under it.
"""

from __future__ import annotations

import fcntl
import json
import os
import secrets
import sqlite3
import struct
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from assayer.core.errors import DamagedError, DataFolderError

DATABASE = "assayer.db"
WAL = "assayer.db-wal"
FILES = "files"
_MARKER = "assayer.opened"
_LOCK = "assayer.lock"
_MAGIC = b"SQLite format 3\x00"
_AGAIN = "restore a backup into an empty folder (assayer restore FILE.zip --data DIR)"


@dataclass(frozen=True, slots=True)
class Header:
    """What the first 100 bytes of a database say: page size in bytes, pages (0: not said), and our token."""

    page_size: int
    pages: int
    token: int


def examine(folder: Path) -> bool:
    """Whether a notebook lies in the folder; False where nothing does.

    Raises
    ------
    DataFolderError
        If what lies there is no notebook, or one that is damaged: says what is wrong, what is whole, how to go on.
    """
    if not folder.exists():
        return False
    if not folder.is_dir():
        raise DataFolderError(f"'{folder}' is a file, not a folder: name the data folder with --data")
    database = folder / DATABASE
    try:
        if database.exists():
            header = read_header(database)
            _refuse_exchanged(folder, header)
            return True
        kept = recordings(folder)
        if kept or _has_wal(folder):
            what = f"{kept} kept files" if kept else "the last entries (assayer.db-wal)"
            raise DamagedError(f"'{folder}' holds {what}, but {DATABASE} is missing: put it back beside them, or {_AGAIN}")
        return False
    except OSError as error:
        raise DataFolderError(f"cannot read '{error.filename or folder}': {error.strerror or error}; check its permissions") from None


def read_header(database: Path) -> Header:
    """The header of a database, checked.

    Raises
    ------
    DataFolderError
        If the file is empty, is no database, or ends before its last page.
    """
    size = database.stat().st_size
    if size == 0:
        raise DamagedError(f"'{database}' is empty (0 bytes): {_whole(database.parent)}{_AGAIN}")
    with database.open("rb") as file:
        head = file.read(100)
    if len(head) < 100 or head[:16] != _MAGIC:
        raise DamagedError(f"'{database}' is damaged or no database (its first bytes are not those of one): {_whole(database.parent)}{_AGAIN}")
    page_size = struct.unpack(">H", head[16:18])[0]
    page_size = 65536 if page_size == 1 else page_size
    if page_size < 512 or page_size & (page_size - 1):
        raise DamagedError(f"'{database}' is damaged (its header names pages of {page_size} bytes): {_whole(database.parent)}{_AGAIN}")
    changed, pages, version_valid = (struct.unpack(">I", head[at : at + 4])[0] for at in (24, 28, 92))
    # the count of pages is good where it was written with the change; after a crash the write-ahead file has the rest
    known = pages if changed == version_valid else 0
    if not _has_wal(database.parent) and size < known * page_size:
        lost = known - size // page_size
        raise DamagedError(f"'{database}' is cut off ({lost} of {known} pages are missing): {_whole(database.parent)}{_AGAIN}")
    return Header(page_size, known, struct.unpack(">I", head[60:64])[0])


def recordings(folder: Path) -> int:
    """How many files are kept beside the database."""
    kept = folder / FILES
    return sum(1 for p in kept.glob("*/*") if p.is_file()) if kept.is_dir() else 0


def _whole(folder: Path) -> str:
    kept = recordings(folder)
    return f"the {kept} kept files beside it are whole; " if kept else ""


def _has_wal(folder: Path) -> bool:
    wal = folder / WAL
    return wal.exists() and wal.stat().st_size > 0


def _refuse_exchanged(folder: Path, header: Header) -> None:
    if not _has_wal(folder):
        return
    tokens = _marked(folder)
    # none at all: last opened before tokens were left
    if tokens and header.token not in tokens:
        raise DamagedError(
            f"'{folder / DATABASE}' is not the database that {WAL} beside it was written for: it was copied in after a crash. "
            f"To open the copy alone, move {WAL} and {DATABASE}-shm to another folder; to go back, put the former {DATABASE} in its place"
        )
    _check_through(folder)


def _check_through(folder: Path) -> None:
    """After a crash: what database and write-ahead file give together, looked through without changing either."""
    try:
        connection = sqlite3.connect(f"{(folder / DATABASE).resolve().as_uri()}?mode=ro", uri=True, timeout=15)
    except sqlite3.Error as error:
        raise damaged(folder, str(error)) from None
    try:
        found = connection.execute("PRAGMA quick_check(1)").fetchone()
    except sqlite3.OperationalError as error:
        if "locked" in str(error) or "readonly" in str(error) or "unable to open" in str(error):
            return
        raise damaged(folder, str(error)) from None
    except sqlite3.DatabaseError as error:
        raise damaged(folder, str(error)) from None
    finally:
        connection.close()
    if found is not None and found[0] != "ok":
        raise damaged(folder, str(found[0]))


def damaged(folder: Path, reason: str) -> DamagedError:
    """The error for a database that SQLite cannot read through."""
    words = " ".join(reason.split())[:160]
    return DamagedError(f"the database of '{folder}' is damaged ({words}): {_whole(folder)}stop Assayer, keep a copy of the folder, then {_AGAIN}")


def _marked(folder: Path) -> list[int]:
    try:
        tokens = json.loads((folder / _MARKER).read_text("utf-8"))["tokens"]
    except (OSError, ValueError, KeyError, TypeError):
        return []
    return [t for t in tokens if isinstance(t, int)]


def mark_opened(folder: Path, connection: sqlite3.Connection) -> None:
    """Leave a new token in header and marker, unless a write-ahead file is in use: then the token stays what it is."""
    if _has_wal(folder):
        return
    old = connection.execute("PRAGMA user_version").fetchone()[0] & 0xFFFFFFFF
    new = secrets.randbelow(2**31 - 1) + 1
    # a crash between the two finds both in the marker
    _write_marker(folder, [old, new])
    connection.execute(f"PRAGMA user_version={new}")
    connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    _write_marker(folder, [new])


def _write_marker(folder: Path, tokens: list[int]) -> None:
    partial = folder / f"{_MARKER}.{os.getpid()}.part"
    with partial.open("w", encoding="utf-8") as file:
        json.dump({"tokens": tokens}, file)
        file.flush()
        os.fsync(file.fileno())
    partial.replace(folder / _MARKER)


def make_private(folder: Path) -> None:
    """Make the folder if need be, readable by its owner alone.

    Raises
    ------
    DataFolderError
        If it cannot be made.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as error:
        raise DataFolderError(f"cannot make the data folder '{folder}': {error.strerror or error}") from None
    if folder.stat().st_mode & 0o077:
        # one that belongs to somebody else keeps its rights
        with suppress(PermissionError):
            folder.chmod(0o700)


def sync_folder(folder: Path) -> None:
    """A file is there after a power cut only once its folder was written too."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def hold(folder: Path, alone: bool = False) -> IO[bytes]:
    """Say, until the file is closed, that the folder is in use; `alone` refuses where somebody else says so.

    Raises
    ------
    DataFolderError
        If it cannot be had alone.
    """
    file = (folder / _LOCK).open("ab")
    try:
        fcntl.flock(file, (fcntl.LOCK_EX if alone else fcntl.LOCK_SH) | fcntl.LOCK_NB)
    except OSError:
        file.close()
        raise DataFolderError(f"'{folder}' is in use: stop Assayer there, then try again") from None
    return file
