"""Recorded curves: taking a file in, and giving curves out for drawing."""

from __future__ import annotations

import hashlib
import json
import struct
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from assayer.core.curves.recording import CHANNELS, Recording
from assayer.core.errors import ConflictError, EntryError, FileError, FilePreview, MissingError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import CurveView
from assayer.core.quantities.units import DIMENSIONS
from assayer.formats.curves.column_words import LOG, PULL
from assayer.formats.curves.columns import FileTemplate
from assayer.formats.curves.curve_file import CurveFile, read_curve
from assayer.services.bench.reductions import inputs_of_run, load_recording
from assayer.services.bench.views import FilePreviewView, RecordingView
from assayer.services.kept import Kept
from assayer.services.rigs.templates import templates_of, wanted_by
from assayer.services.unit import Actor, Workspace, find
from assayer.store.curve_codec import pack
from assayer.store.models import Arm, Curve, RigVersion, Run, Slot, Specimen, Test

OVERVIEW_POINTS = 600


def take_in(
    workspace: Workspace, actor: Actor, curve_id: str, rig_version_id: str, file_name: str, data: bytes, columns: str | None = None, log: bool = False
) -> tuple[RecordingView, bool]:
    """Read a recording, keep the file and the curve; nothing is kept if it cannot be read for certain.

    The same id and bytes again change nothing (second value False). A `log` is what a thermometer's logger
    wrote: temperatures and their times, of no one specimen.

    Raises
    ------
    FileError, UnclearFileError
        What is wrong with the file, or what has to be asked.
    """
    with workspace.read() as session:
        there = session.get(Curve, curve_id)
        if there is not None:
            return _same(there, data), False
        rig = find(session, RigVersion, rig_version_id).rig
        templates, wanted = templates_of(session, rig_version_id), LOG if log else wanted_by(rig.methods)
    read = read_as_told(data, columns, templates, wanted)
    recording = read.recording
    if log and recording.get("time") is None:
        raise FileError("the file has no times: export it with the time of each temperature")
    digest = workspace.files.put(data)
    with workspace.write(actor) as unit:
        # sent several times at once, the first one has come in by now
        there = unit.session.get(Curve, curve_id)
        if there is not None:
            return _same(there, data), False
        curve = curve_row(curve_id, file_name, digest, recording, unit.now)
        unit.session.add(curve)
        unit.log("curve", curve.id, "taken in", after={"file": curve.file_name, "sha256": digest, "rows": curve.rows})
        return recording_view(curve, read.preview), True


def curve_row(curve_id: str, file_name: str, digest: str, recording: Recording, now: datetime) -> Curve:
    """A recording as it is kept: float32 columns, with the lines of the file they came from."""
    return Curve(
        id=curve_id,
        sha256=digest,
        file_name=file_name,
        rows=recording.rows,
        columns=[{"role": name, "first_line": recording.first_line} for name in recording.channels],
        warnings=recording.warnings,
        data=pack([_from_start(name, values) for name, values in recording.channels.items()]),
        # rows may have been skipped: a remark must still name the line of the file
        lines=None if recording.lines is None else recording.lines.astype("<i4").tobytes(),
        created_at=now,
    )


def _same(there: Curve, data: bytes) -> RecordingView:
    if there.sha256 != hashlib.sha256(data).hexdigest():
        raise ConflictError("another recording already has this id")
    return recording_view(there)


def read_as_told(data: bytes, columns: str | None, templates: list[FileTemplate], wanted: Sequence[str] = PULL) -> CurveFile:
    """A file read by the columns told, else by the rig's template for files with its header, else as it is recognised."""
    if columns is None:
        for template in templates:
            # a template only speaks for files with its own header; others are recognised afresh
            try:
                found = read_curve(data, None, template, wanted)
            except ValueError:
                continue
            if found.signature == template.signature:
                return found
    return read_curve(data, columns, wanted=wanted)


def _from_start(name: str, values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Travel and time counted from the first row, so that float32 spends its digits on what changes."""
    return values - values[0] if name in {"travel", "time"} else values


def recording_view(curve: Curve, preview: FilePreview | None = None) -> RecordingView:
    return RecordingView(
        id=curve.id,
        file_name=curve.file_name,
        rows=curve.rows,
        columns=[c["role"] for c in curve.columns],
        warnings=curve.warnings,
        preview=None if preview is None else FilePreviewView.model_validate(preview),
    )


def raw_curve(workspace: Workspace, curve_id: str) -> bytes:
    """Force or torque against travel, angle, strain or row, or travel against temperature, of a curve not yet reduced, as packed float32 (see `encode`)."""
    with workspace.read() as session:
        recording = load_recording(find(session, Curve, curve_id))
    x, label, unit = _abscissa(recording)
    name = next(n for n in (*_UPWARDS, *recording.channels) if n in recording.channels and n != label)
    y_unit = DIMENSIONS[CHANNELS[name]].base
    return encode([_Line({"id": curve_id, "x_label": label, "x_unit": unit, "y_label": name, "y_unit": y_unit, "marks": {}}, *thin(x, recording.need(name)))])


_UPWARDS = ("force", "torque", "travel")


def drawn_of(recording: Recording) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """What a recording is drawn as before it is reduced: x and y."""
    x, label, _ = _abscissa(recording)
    name = next(n for n in (*_UPWARDS, *recording.channels) if n in recording.channels and n != label)
    return x, recording.need(name)


def _abscissa(recording: Recording) -> tuple[NDArray[np.float64], str, str]:
    time = recording.get("time")
    if time is not None and recording.get("temperature") is not None and recording.get("travel") is None:
        return time, "time", "s"
    for name in ("temperature", "angle"):
        found = recording.get(name)
        if found is not None:
            return found, name, DIMENSIONS[CHANNELS[name]].base
    travel, strain = recording.get("travel"), recording.get("strain")
    if travel is not None:
        return travel, "travel", "mm"
    if strain is not None:
        return strain * 100, "strain", "%"
    return np.arange(recording.rows, dtype=float), "row", "no."


@dataclass(frozen=True, slots=True)
class _Line:
    meta: dict[str, object]
    x: NDArray[np.float64]
    y: NDArray[np.float64]


def thin(x: NDArray[np.float64], y: NDArray[np.float64], points: int = OVERVIEW_POINTS) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """At most about `points` rows, keeping the least and greatest y of each stretch, so that no drop is lost."""
    if x.size <= points:
        return x, y
    edges = np.linspace(0, x.size, points // 2 + 1).astype(int)
    kept = {0, x.size - 1}
    for start, stop in zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True):
        part = y[start:stop]
        kept.update((start + int(part.argmin()), start + int(part.argmax())))
    rows = np.array(sorted(kept))
    return x[rows], y[rows]


def encode(lines: list[_Line]) -> bytes:
    """A JSON head and float32 columns in one answer.

    Layout, little-endian: uint32 length of the head (padded to 4), the head as UTF-8 JSON
    ``{"curves": [{…, "points": n}]}``, then for each curve n × float32 x and n × float32 y.
    """
    head = json.dumps({"curves": [line.meta | {"points": int(line.x.size)} for line in lines]}, separators=(",", ":")).encode()
    head += b" " * (-len(head) % 4)
    body = b"".join(np.asarray(column, "<f4").tobytes() for line in lines for column in (line.x, line.y))
    return struct.pack("<I", len(head)) + head + body


def _line_of(view: CurveView, meta: dict[str, object], points: int) -> _Line:
    x, y = (view.x, view.y) if view.points else thin(view.x, view.y, points)
    as_percent = view.x_unit == "1"
    return _Line(
        meta
        | {
            "x_label": view.x_label,
            "x_unit": "%" if as_percent else view.x_unit,
            "y_label": view.y_label,
            "y_unit": view.y_unit,
            "marks": {k: list(v) for k, v in view.marks.items()},
            "log_x": view.log_x,
            "single_readings": view.points,
            "joined": view.joined,
        },
        x * 100 if as_percent else x,
        y,
    )


def run_curve(workspace: Workspace, run_id: str) -> bytes:
    """The reduced curve of one run, in full; put together from readings where none was recorded."""
    with workspace.read() as session:
        run = find(session, Run, run_id)
        view = _view(session, run)
    if view is None:
        raise MissingError("this run has no curve to draw")
    return encode([_line_of(view, {"id": run_id}, 4000)])


def _view(session: Session, run: Run) -> CurveView | None:
    try:
        return find_method(find(session, Test, run.test_id).method).view(inputs_of_run(session, run))
    except EntryError:
        # an open run may not hold enough yet
        return None


_overviews: Kept[CurveView | None] = Kept(4000)
"""By the revision of their run: the curves of a test are reduced once, not at every look."""


def _overview(workspace: Workspace, session: Session, run: Run) -> CurveView | None:
    def make() -> CurveView | None:
        view = _view(session, run)
        if view is None or view.points:
            return view
        x, y = thin(view.x, view.y)
        return replace(view, x=x, y=y)

    return _overviews.of((str(workspace.db.path), run.id, run.revision), make)


def curves_of_test(workspace: Workspace, test_id: str) -> bytes:
    """Overviews of all curves of a test, for drawing them over one another."""
    lines = []
    with workspace.read() as session:
        find(session, Test, test_id)
        rows = session.execute(
            select(Run, Arm.id, Specimen.code)
            .join(Specimen, Specimen.id == Run.specimen_id)
            .join(Slot, Slot.id == Specimen.slot_id)
            .join(Arm, Arm.id == Slot.arm_id)
            .where(Run.test_id == test_id, Run.retracted_at.is_(None))
            .options(selectinload(Run.readings))
            .order_by(Arm.position, Run.happened_at)
        ).all()
        for run, arm_id, code in rows:
            view = _overview(workspace, session, run)
            if view is not None:
                lines.append(_line_of(view, {"id": run.id, "arm_id": arm_id, "code": code, "validity": run.validity}, OVERVIEW_POINTS))
    return encode(lines)
