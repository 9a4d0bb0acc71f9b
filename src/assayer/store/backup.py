"""A backup: one zip with the database and every kept file, made while the application runs, checked before it is called done.

Layout (format "assayer-backup", version 2): `manifest.json` with what it holds, the SHA-256 of each part and of itself, `assayer.db`,
and `files/ab/abcdef…` as they lie in the data folder.
"""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import sqlite3
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path

from assayer.core.errors import DamagedError, DataFolderError, FileError
from assayer.store.files import NAMED
from assayer.store.folder import DATABASE, FILES, damaged, examine, hold, make_private, sync_folder

FORMAT = "assayer-backup"
VERSION = 2
Progress = Callable[[str, float], None]
"""What is being done, and its share from 0 to 1."""
_PAGES = 2000
_BLOCK = 1 << 20


@dataclass(frozen=True, slots=True)
class Manifest:
    """What a backup holds.

    Attributes
    ----------
    made_at : str
        ISO instant.
    schema : str
        Revision of the database.
    database : str
        SHA-256 of the database.
    files : dict
        Size in bytes of each kept file by its SHA-256.
    missing : list of str
        Files that the database names and the folder did not have.
    rows : dict
        Count of rows of each table.
    """

    made_at: str
    schema: str
    database: str
    files: dict[str, int]
    missing: list[str]
    rows: dict[str, int]


def write_backup(folder: Path, target: Path, now: datetime, progress: Progress = lambda what, share: None) -> Manifest:
    """Copy the notebook of a data folder into one file, while it is in use, and look through the copy.

    Raises
    ------
    DamagedError
        If the copy does not hold together: then nothing is left at `target`.
    DataFolderError
        If there is no notebook, or no room or permission at the target.
    """
    if not examine(folder):
        raise DataFolderError(f"there is no notebook in '{folder}': name the folder with --data")
    partial = target.with_name(f"{target.name}.{os.getpid()}.part")
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(prefix=".assayer-", dir=target.parent) as room:
            copy = Path(room) / DATABASE
            _copy_database(folder, copy, progress)
            manifest = _look_through(folder, copy, now)
            _write_zip(folder, copy, manifest, partial, progress)
        read_manifest(partial, progress)
        os.replace(partial, target)
        sync_folder(target.parent)
    except OSError as error:
        raise DataFolderError(f"cannot write the backup '{target}': {error.strerror or error}") from None
    finally:
        with suppress(OSError):
            partial.unlink(missing_ok=True)
    return manifest


def _copy_database(folder: Path, copy: Path, progress: Progress) -> None:
    source = sqlite3.connect(folder / DATABASE, timeout=15)
    made = sqlite3.connect(copy)
    try:
        source.backup(made, pages=_PAGES, progress=lambda _status, left, total: progress("copying the database", 1 - left / max(total, 1)), sleep=0.01)
        # the copy is one file: it needs no log beside it
        made.execute("PRAGMA journal_mode=DELETE")
    except sqlite3.DatabaseError as error:
        raise damaged(folder, str(error)) from None
    finally:
        made.close()
        source.close()


def _look_through(folder: Path, copy: Path, now: datetime) -> Manifest:
    connection = sqlite3.connect(copy)
    try:
        wrong = [row[0] for row in connection.execute("PRAGMA integrity_check(3)") if row[0] != "ok"]
        wrong += [f"{row[0]} points at a {row[2]} that is not there" for row in connection.execute("PRAGMA foreign_key_check").fetchmany(3)]
        if wrong:
            raise damaged(folder, "; ".join(wrong))
        tables = [row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' ORDER BY name")]
        rows = {name: int(connection.execute(f'SELECT count(*) FROM "{name}"').fetchone()[0]) for name in tables}
        schema = str(connection.execute("SELECT version_num FROM alembic_version").fetchone()[0])
        there = [(table, column) for table, column in NAMED if table in tables]
        named = sorted({row[0] for table, column in there for row in connection.execute(f'SELECT DISTINCT "{column}" FROM "{table}"')})
    except sqlite3.DatabaseError as error:
        raise damaged(folder, str(error)) from None
    finally:
        connection.close()
    sizes = {digest: path.stat().st_size for digest in named if (path := _file(folder, digest)).is_file()}
    return Manifest(now.astimezone(UTC).isoformat(), schema, _hash_of(copy), sizes, [d for d in named if d not in sizes], rows)


def _write_zip(folder: Path, copy: Path, manifest: Manifest, partial: Path, progress: Progress) -> None:
    with partial.open("xb") as out:
        os.chmod(partial, 0o600)
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
            head = {"format": FORMAT, "version": VERSION} | asdict(manifest)
            archive.writestr("manifest.json", json.dumps(head | {"sha256": _digest_of(head)}, indent=1))
            archive.write(copy, DATABASE)
            for i, digest in enumerate(manifest.files):
                progress("packing the files", i / len(manifest.files))
                archive.write(_file(folder, digest), _name(digest))
        out.flush()
        os.fsync(out.fileno())


def _digest_of(head: dict[str, object]) -> str:
    """Of a manifest without its own digest, however it is laid out."""
    return hashlib.sha256(json.dumps(head, sort_keys=True).encode()).hexdigest()


def read_manifest(file: Path, progress: Progress = lambda what, share: None) -> Manifest:
    """What a backup holds, once every byte of it has been read and held against it.

    Raises
    ------
    FileError
        If it is no backup of ours, was made by a newer version, or is damaged: names the part.
    """
    manifest = peek_manifest(file)
    try:
        with zipfile.ZipFile(file) as archive:
            expected = {DATABASE: manifest.database} | {_name(digest): digest for digest in manifest.files}
            for i, (name, digest) in enumerate(expected.items()):
                progress("checking the backup", i / len(expected))
                with archive.open(name) as part:
                    if _hash(iter(lambda part=part: part.read(_BLOCK), b"")) != digest:  # type: ignore[misc]
                        raise FileError(f"'{file}' is damaged: {name} in it is not what it was")
    except (KeyError, zipfile.BadZipFile, OSError, EOFError, ValueError) as error:
        if isinstance(error, FileError):
            raise
        raise FileError(f"'{file}' is damaged or cut off: {error}") from None
    progress("checking the backup", 1.0)
    return manifest


def peek_manifest(file: Path) -> Manifest:
    """What a backup says of itself; its parts are not looked at."""
    try:
        with zipfile.ZipFile(file) as archive:
            head = json.loads(archive.read("manifest.json"))
        if head["format"] != FORMAT:
            raise FileError(f"'{file}' is no backup of Assayer")
        if head["version"] not in (1, VERSION):
            raise FileError(f"'{file}' was made by a newer version of Assayer: update Assayer to restore it")
        # the first version had no digest of the manifest itself
        if head["version"] == VERSION and head.pop("sha256") != _digest_of(head):
            raise FileError(f"'{file}' is damaged: its manifest is not what it was")
        return Manifest(**{name: value for name, value in head.items() if name not in ("format", "version")})
    except FileNotFoundError:
        raise FileError(f"there is no file '{file}'") from None
    except (KeyError, TypeError, AttributeError, UnicodeDecodeError, json.JSONDecodeError, zipfile.BadZipFile, OSError, EOFError) as error:
        raise FileError(f"'{file}' is no backup of Assayer, or it is cut off: {error}") from None


def restore(file: Path, folder: Path, progress: Progress = lambda what, share: None) -> Path | None:
    """Put the notebook of a backup into a data folder; what lies there is kept beside it.

    Returns
    -------
    Path or None
        Where the former contents of the folder were moved, if there were any.

    Raises
    ------
    FileError
        If the backup is no good: then nothing was changed.
    DataFolderError
        If the folder cannot be written.
    """
    manifest = read_manifest(file, progress)
    if folder.is_dir() and any(folder.iterdir()):
        hold(folder, alone=True).close()
    partial = folder.with_name(f"{folder.name}.restoring")
    try:
        shutil.rmtree(partial, ignore_errors=True)
        make_private(partial)
        with zipfile.ZipFile(file) as archive:
            names = [DATABASE, *map(_name, manifest.files)]
            for i, name in enumerate(names):
                progress("unpacking", i / len(names))
                target = partial / name
                target.parent.mkdir(parents=True, exist_ok=True)
                with archive.open(name) as part, target.open("wb") as out:
                    shutil.copyfileobj(part, out, _BLOCK)
                    out.flush()
                    os.fsync(out.fileno())
        examine(partial)
        former = _move_aside(folder) if folder.exists() and any(folder.iterdir()) else None
        if folder.exists():
            folder.rmdir()
        partial.rename(folder)
        # the backups themselves, and where they go, are no part of a backup
        for name in ("backups", "safekeeping.json"):
            if former is not None and (former / name).exists():
                (former / name).rename(folder / name)
        sync_folder(folder.parent)
    except OSError as error:
        raise DataFolderError(f"cannot restore into '{folder}': {error.strerror or error}") from None
    return former


def _move_aside(folder: Path) -> Path:
    stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
    former = folder.with_name(f"{folder.name}.before-{stamp}")
    folder.rename(former)
    return former


def _file(folder: Path, digest: str) -> Path:
    return folder / _name(digest)


def _name(digest: str) -> str:
    if len(digest) != 64 or not all(c in "0123456789abcdef" for c in digest):
        raise DamagedError(f"'{digest[:80]}' is no name of a recording")
    return f"{FILES}/{digest[:2]}/{digest}"


def _hash_of(path: Path) -> str:
    with path.open("rb") as file:
        return _hash(iter(lambda: file.read(_BLOCK), b""))


def _hash(blocks: Iterator[bytes]) -> str:
    digest = hashlib.sha256()
    for block in blocks:
        digest.update(block)
    return digest.hexdigest()
