"""Many recordings at once: read together, each matched to a specimen by the code in its name, else in the order of the test."""

from __future__ import annotations

import json
import re
import struct
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from uuid import UUID

import numpy as np
from pydantic import TypeAdapter, ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import AssayerError, EntryError, UnclearFileError
from assayer.formats.curves.curve_file import CurveFile
from assayer.formats.curves.parting import part_file
from assayer.services.bench.curves import curve_row, drawn_of, read_as_told, thin
from assayer.services.bench.queue import queue
from assayer.services.bench.recorded import saved_for, specimen_codes_in
from assayer.services.bench.views import ManyCurves, ManyRow, QueueItem
from assayer.services.requests import Id
from assayer.services.rigs.templates import templates_of, wanted_by
from assayer.services.unit import Actor, Workspace, find
from assayer.store.models import Curve, RigVersion, Test

MOST_FILES = 200
"""In one bundle; a browser sends one after another, and tells how far it is."""
MOST_PARTS = 200
"""Specimens in one file."""
_POINTS = 48
_WRITERS = 8
"""Files that wait for the disk side by side."""
_IDS = TypeAdapter(Id)


@dataclass(frozen=True, slots=True)
class SentFile:
    """One recording of a bundle: the id it is to have, its name, its bytes; `whole`, the file that it is a part of."""

    id: str
    name: str
    data: bytes
    whole: bytes | None = None


def unbundle(data: bytes) -> list[SentFile]:
    """The files of a bundle: uint32 (little-endian) length of a JSON head ``{"files": [{"id", "name", "size"}]}``, the head, the files.

    Raises
    ------
    EntryError
        If it is no such bundle; names the file that is wrong.
    """
    try:
        (length,) = struct.unpack_from("<I", data)
        listed = json.loads(data[4 : 4 + length])["files"]
        told = [(_IDS.validate_python(f["id"]), str(f["name"])[-200:] or "recording", int(f["size"])) for f in listed]
    except (struct.error, ValueError, KeyError, TypeError, ValidationError) as error:
        raise EntryError(f"this is no bundle of files: {type(error).__name__}", "files") from None
    if not 1 <= len(told) <= MOST_FILES:
        raise EntryError(f"from 1 to {MOST_FILES} files in a bundle, but there are {len(told)}", "files")
    at, files = 4 + length, []
    for i, (key, name, size) in enumerate(told, 1):
        if size < 0 or at + size > len(data):
            raise EntryError(f"file {i} ({name}) ends before its {size} bytes", "files", i)
        files.append(SentFile(key, name, data[at : at + size]))
        at += size
    return files


def take_in_many(workspace: Workspace, actor: Actor, test_id: str, rig_version_id: str, files: Sequence[SentFile], taken: Iterable[str] = ()) -> ManyCurves:
    """Read files together; what can be read for certain is kept, the rest says why not.

    Parameters
    ----------
    files : sequence of SentFile
        The same id and bytes again change nothing.
    taken : iterable of str
        Specimens that earlier bundles of the same drop were matched to.

    Returns
    -------
    ManyCurves
        A row a file, or a specimen in it, in their order, with the specimen that it seems to be of.
    """
    files = [part for f in files for part in _parted(f)]
    with workspace.read() as session:
        find(session, Test, test_id)
        version = find(session, RigVersion, rig_version_id)
        templates, wanted = templates_of(session, rig_version_id), wanted_by(version.rig.methods)
    read: dict[str, CurveFile] = {}
    wrong: dict[str, str] = {}
    for f in files:
        try:
            read[f.id] = read_as_told(f.data, None, templates, wanted)
        except UnclearFileError as error:
            wrong[f.id] = f"{error}; drop one such file by itself and answer: the next ones are read alike"
        except (AssayerError, ValueError) as error:
            wrong[f.id] = str(error)
    with ThreadPoolExecutor(_WRITERS) as pool:
        kept = [f for f in files if f.id in read]
        digests = dict(zip((f.id for f in kept), pool.map(lambda f: workspace.files.put(f.whole or f.data), kept), strict=True))
    with workspace.write(actor) as unit:
        there = {c.id: c.sha256 for c in unit.session.scalars(select(Curve).where(Curve.id.in_([f.id for f in files])))}
        for f in kept:
            if f.id not in there:
                unit.session.add(curve_row(f.id, f.name, digests[f.id], read[f.id].recording, unit.now))
            elif there[f.id] != digests[f.id]:
                wrong[f.id] = "another recording already has this id"
        new = [f for f in kept if f.id not in there]
        if new:
            unit.log("curves", test_id, "taken in", after={"files": len(new), "first": new[0].name, "last": new[-1].name})
    good = [f for f in files if f.id not in wrong]
    with workspace.read() as session:
        doubts = _doubts(session, good)
        codes = specimen_codes_in(session, [f.name for f in good])
    named = [Named(f.id, f.name, codes[f.name]) for f in good if f.id not in doubts]
    matched = match(named, queue(workspace, test_id, "files", blind=True).items, set(taken))
    doubts |= {n.id: f"its name has the code of {n.codes[0]}, which is not waiting for a recording here" for n in named if n.codes and n.id not in matched}
    return ManyCurves(items=[_row(f, read.get(f.id), wrong.get(f.id), doubts.get(f.id), matched.get(f.id)) for f in files])


def _doubts(session: Session, files: Sequence[SentFile]) -> dict[str, str]:
    """Why recordings are given to no specimen by themselves: the same one is saved already, or lies beside it."""
    doubts = {curve: f"the same recording is already saved for {code}" for curve, code in saved_for(session, [f.id for f in files]).items()}
    first: dict[bytes, str] = {}
    for f in files:
        twin = first.get(f.data)
        if twin is None:
            first[f.data] = f.name
        else:
            doubts.setdefault(f.id, f"the same recording as '{twin}'")
    return doubts


def _parted(f: SentFile) -> list[SentFile]:
    """A file as it is, or each specimen's part of it; what cannot be read at all is told when it is read."""
    try:
        parts = part_file(f.data)
    except AssayerError:
        parts = []
    if len(parts) > MOST_PARTS:
        return [f]
    return [SentFile(_id_of_part(f.id, k), f"{f.name} · {part.label}"[-200:], part.data, f.data) for k, part in enumerate(parts)] or [f]


def _id_of_part(key: str, k: int) -> str:
    """The id of the k-th part of a file, the same whenever the file is sent again."""
    number = UUID(key).int
    chance = (1 << 62) - 1
    return str(UUID(int=(number & ~chance) | ((number + k) & chance)))


@dataclass(frozen=True, slots=True)
class Named:
    """A recording by its id, the name of its file, and the codes of specimens in that name."""

    id: str
    name: str
    codes: Sequence[str]


def match(files: Sequence[Named], items: Sequence[QueueItem], taken: set[str]) -> Mapping[str, tuple[QueueItem, str]]:
    """By file id, the specimen it seems to be of and how that was told: "code", or "order".

    A code stands in the name; what bears none goes by its name's natural order onto the specimens that are
    still to be tested, in the order of the test. One named with the code of a specimen that is not to be had
    is given to no other.
    """
    waiting = [i for i in items if i.state in ("waiting", "measured")]
    by_code = {i.code: i for i in waiting}
    found: dict[str, tuple[QueueItem, str]] = {}
    rest = []
    used = set(taken)
    for f in files:
        item = next((by_code[c] for c in f.codes if c in by_code and by_code[c].specimen_id not in used), None)
        if item is not None:
            found[f.id] = (item, "code")
            used.add(item.specimen_id)
        elif not f.codes:
            rest.append(f)
    free = [i for i in waiting if i.specimen_id not in used]
    for f, item in zip(sorted(rest, key=lambda f: _natural(f.name)), free, strict=False):
        found[f.id] = (item, "order")
    return found


def _natural(name: str) -> list[tuple[int, int, str]]:
    """So that "pull 10" comes after "pull 9"."""
    return [(0, int(part), "") if part.isdigit() else (1, 0, part.lower()) for part in re.split(r"(\d+)", name) if part]


def _row(f: SentFile, read: CurveFile | None, error: str | None, doubt: str | None, matched: tuple[QueueItem, str] | None) -> ManyRow:
    points: list[tuple[float, float]] = []
    if read is not None:
        x, y = drawn_of(read.recording)
        x, y = thin(x, y, _POINTS)
        points = [(float(a), float(b)) for a, b in zip(np.asarray(x, np.float32), np.asarray(y, np.float32), strict=True)]
    item, how = matched if matched is not None else (None, None)
    return ManyRow(
        id=f.id,
        name=f.name,
        rows=0 if read is None else read.recording.rows,
        warnings=[] if read is None else read.recording.warnings,
        error=error,
        doubt=doubt,
        points=points,
        specimen_id=None if item is None else item.specimen_id,
        code=None if item is None else item.code,
        matched=how,
    )
