"""G-code files: taken in, inspected beside the requests, held against a sheet, compared, stepped."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from threading import Lock, Thread
from typing import TYPE_CHECKING, Any

from sqlalchemy import Select, select
from sqlalchemy.orm import Session

from assayer.core.errors import AssayerError, ConflictError, DataFolderError, FileError, MissingError
from assayer.core.gcode.judging import LayerDifference, against_series, against_sheet, compare
from assayer.core.gcode.stepping import plan_steps, with_insertions
from assayer.core.settings.series import Series, check_series
from assayer.services.dial_in.sheets import sheet_of
from assayer.services.dial_in.trial_views import series_of, series_view
from assayer.services.dial_in.trials import series_told
from assayer.services.dial_in.views import WarningView
from assayer.services.gcode.inspections import blocks_of
from assayer.services.gcode.judged import as_inspection
from assayer.services.gcode.views import (
    BandAtView,
    FileComparison,
    FileFinding,
    GcodeItem,
    GcodeJob,
    GcodeList,
    GcodeView,
    HeightDifference,
    InsertionView,
    InspectionView,
    StepPlan,
)
from assayer.services.printing.printers import hardware_of
from assayer.services.stock.materials import window_of
from assayer.services.unit import Actor, Workspace, find
from assayer.store.files import Incoming
from assayer.store.models import Arm, GcodeFile, Plate, Printer, SettingsSheet, Trail, Trial

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import SeriesIn

MOST_BYTES = 250_000_000
_KEPT_JOBS = 60


@dataclass(frozen=True, slots=True)
class MadeFor:
    """What a file was made for: a trial of a trail, or a plate of a study; and the printer's acceleration, mm/s²."""

    trail_id: str | None = None
    trial_id: str | None = None
    plate_id: str | None = None
    acceleration: float = 1000.0


class Inspections:
    """Inspections under way, one after another, each in a process of its own: a large file keeps nobody waiting."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        workspace.files.sweep()
        self._lock = Lock()
        self._one = Lock()
        self._jobs: OrderedDict[str, GcodeJob] = OrderedDict()
        self._running: dict[str, subprocess.Popen[str]] = {}
        self._cancelled: set[str] = set()

    def start(self, actor: Actor, key: str, name: str, coming: Incoming, trial_id: str | None = None, plate_id: str | None = None) -> GcodeJob:
        """Begin to inspect a file that has come whole; it is kept once that is done."""
        made_for = self._made_for(trial_id, plate_id)
        job = GcodeJob(id=key, name=name, state="running", share=0.0, words="")
        with self._lock:
            there = self._jobs.get(key)
            if there is not None and there.state == "running":
                raise ConflictError("this file is being inspected already", there)
            self._jobs[key] = job
            while len(self._jobs) > _KEPT_JOBS:
                self._jobs.popitem(last=False)
        Thread(target=self._run, args=(actor, job, made_for, coming), name="assayer-gcode", daemon=True).start()
        return job

    def _made_for(self, trial_id: str | None, plate_id: str | None) -> MadeFor:
        with self._workspace.read() as session:
            if plate_id is not None:
                printer = find(session, Printer, find(session, Plate, plate_id).printer_id)
                return MadeFor(plate_id=plate_id, acceleration=printer.acceleration or 1000.0)
            if trial_id is None:
                return MadeFor()
            trail = find(session, Trail, find(session, Trial, trial_id).trail_id)
            return MadeFor(trail.id, trial_id, acceleration=find(session, Printer, trail.printer_id).acceleration or 1000.0)

    def shown(self, key: str) -> GcodeJob:
        with self._lock:
            found = self._jobs.get(key)
        if found is None:
            with self._workspace.read() as session:
                kept = session.get(GcodeFile, key)
            if kept is None:
                raise MissingError("no file of this id was taken in: send it again")
            return GcodeJob(id=key, name=kept.name, state="done", share=1.0, words="")
        return found

    def cancel(self, key: str) -> GcodeJob:
        """Stop an inspection; its file is dropped."""
        with self._lock:
            job = self._jobs.get(key)
            if job is None or job.state != "running":
                raise MissingError("nothing of this id is being inspected")
            self._cancelled.add(key)
            process = self._running.get(key)
        if process is not None:
            process.terminate()
        return self._say(key, state="cancelled", words="cancelled: the file was not kept")

    def _say(self, key: str, **more: object) -> GcodeJob:
        with self._lock:
            self._jobs[key] = self._jobs[key].model_copy(update=more)
            return self._jobs[key]

    def _run(self, actor: Actor, job: GcodeJob, made_for: MadeFor, coming: Incoming) -> None:
        try:
            with self._one, coming:
                if job.id in self._cancelled:
                    return
                found = self._inspect(job.id, coming, made_for.acceleration)
                if found is not None:
                    keep_file(self._workspace, actor, job.id, job.name, coming, found, made_for)
                    self._say(job.id, state="done", share=1.0)
        except FileError as error:
            self._say(job.id, state="failed", words=str(error), line=error.line)
        except AssayerError as error:
            self._say(job.id, state="failed", words=str(error))
        except Exception:
            self._say(job.id, state="failed", words="something went wrong in Assayer itself: the file was not kept")
            raise

    def _inspect(self, key: str, coming: Incoming, acceleration: float) -> InspectionView | None:
        coming.finish()
        command = [sys.executable, "-m", "assayer.cli", "gcode", "inspect", str(coming.path), "--json", "--progress", "--acceleration", f"{acceleration:g}"]
        with tempfile.TemporaryFile("w+", encoding="utf-8") as answer:
            process = subprocess.Popen(command, stdout=answer, stderr=subprocess.PIPE, text=True)
            with self._lock:
                self._running[key] = process
                if key in self._cancelled:
                    process.terminate()
            assert process.stderr is not None
            last = ""
            for line in process.stderr:
                if line.strip().isdigit():
                    self._say(key, share=min(int(line) / max(coming.size, 1), 1.0))
                else:
                    last = line.strip()
            status = process.wait()
            with self._lock:
                self._running.pop(key, None)
            if key in self._cancelled:
                return None
            if status:
                raise _refused(last)
            answer.seek(0)
            return InspectionView.model_validate_json(answer.read())

    def stop(self) -> None:
        """The server ends: what is under way ends with it."""
        with self._lock:
            running = list(self._running.values())
        for process in running:
            process.terminate()


def _refused(said: str) -> FileError:
    text = said.removeprefix("assayer: ")
    if text.startswith("line ") and ": " in text:
        number, _, rest = text.removeprefix("line ").partition(": ")
        if number.isdigit():
            return FileError(rest, int(number))
    return FileError(text or "the inspection ended without saying why")


def keep_file(workspace: Workspace, actor: Actor, key: str, name: str, coming: Incoming, found: InspectionView, made_for: MadeFor) -> None:
    """Keep a file with what its inspection found."""
    digest = coming.keep()
    with workspace.write(actor) as unit:
        if unit.session.get(GcodeFile, key) is not None:
            return
        unit.session.add(
            GcodeFile(
                id=key, name=name, sha256=digest, size=coming.size, trail_id=made_for.trail_id, trial_id=made_for.trial_id, plate_id=made_for.plate_id,
                found=found.model_dump(mode="json"),
                added_at=unit.now, zone=actor.zone, who=actor.who,
            )
        )  # fmt: skip
        if made_for.plate_id is not None:
            unit.touch(find(unit.session, Plate, made_for.plate_id).study_id)
        unit.log("G-code file", key, "taken in", after={"name": name, "bytes": coming.size, "layers": found.layers})


def list_files(workspace: Workspace, trail_id: str | None = None) -> GcodeList:
    """Files that were inspected, the latest first."""
    with workspace.read() as session:
        standing = _items().where(GcodeFile.retracted_at.is_(None)).order_by(GcodeFile.added_at.desc(), GcodeFile.id.desc()).limit(200)
        if trail_id is not None:
            standing = standing.where(GcodeFile.trail_id == trail_id)
        return GcodeList(items=[GcodeItem.model_validate(f) for f in session.execute(standing)])


def _items() -> Select[Any]:
    """What a list says of a file: two figures of its inspection, which is too long to be read for each."""
    f, found = GcodeFile, GcodeFile.found
    return select(f.id, f.name, f.size, f.added_at, f.trail_id, found["layers"].as_integer().label("layers"), found["time_s"].as_float().label("time_s"))


def _item(f: GcodeFile, found: InspectionView) -> GcodeItem:
    return GcodeItem(id=f.id, name=f.name, size=f.size, added_at=f.added_at, trail_id=f.trail_id, layers=found.layers, time_s=found.time_s)


def get_file(workspace: Workspace, file_id: str, sheet_id: str | None = None) -> GcodeView:
    """A file with its inspection, held against the sheet of its trial or its plate, or against the one that is named."""
    with workspace.read() as session:
        kept = find(session, GcodeFile, file_id)
        trial = session.get(Trial, kept.trial_id) if kept.trial_id else None
        plate = session.get(Plate, kept.plate_id) if kept.plate_id else None
        own_sheet = trial.sheet_id if trial is not None else find(session, Arm, plate.arm_id).variant.sheet_id if plate is not None else None
        found = InspectionView.model_validate(kept.found)
        series = series_of(trial.series) if trial is not None and trial.series is not None else None
        material = find(session, Trail, kept.trail_id).material if kept.trail_id else find(session, Arm, plate.arm_id).variant.material if plate else None
        return GcodeView(
            id=kept.id,
            name=kept.name,
            size=kept.size,
            added_at=kept.added_at,
            who=kept.who,
            trail_id=kept.trail_id,
            trial_id=kept.trial_id,
            trial_number=trial.number if trial is not None else None,
            series=series_view(series) if series is not None else None,
            density=material.density if material is not None else None,
            found=found,
            findings=_findings(session, found, sheet_id or own_sheet, series),
        )


def _findings(session: Session, stored: InspectionView, sheet_id: str | None, series: Series | None) -> list[FileFinding]:
    """Where a file differs from its sheet, and from its tower; what a tower steps differs from the sheet on purpose."""
    inspection = as_inspection(stored)
    of_series = against_series(inspection, series) if series is not None else []
    sheet = sheet_of(find(session, SettingsSheet, sheet_id)) if sheet_id is not None else None
    of_sheet = against_sheet(inspection, sheet) if sheet is not None else []
    stepped = series.setting if series is not None else None
    return [FileFinding.model_validate(f) for f in (*of_series, *(f for f in of_sheet if f.about != stepped))]


def compare_files(workspace: Workspace, a: str, b: str) -> FileComparison:
    """Two files: time and filament, and height by height."""
    with workspace.read() as session:
        one, two = find(session, GcodeFile, a), find(session, GcodeFile, b)
        first, second = (InspectionView.model_validate(f.found) for f in (one, two))
        rows: list[LayerDifference] = compare(as_inspection(first), as_inspection(second))
        return FileComparison(
            a=_item(one, first),
            b=_item(two, second),
            mass_share=second.filament_mm / first.filament_mm if first.filament_mm else None,
            rows=[HeightDifference.model_validate(r) for r in rows],
        )


def plan_file_steps(workspace: Workspace, file_id: str, told: SeriesIn) -> StepPlan:
    """What a series would put into a file, and where; nothing is kept."""
    series = series_told(told)
    path, trail_id = _path(workspace, file_id)
    with workspace.read() as session:
        trail = session.get(Trail, trail_id) if trail_id else None
        cautions = check_series(series, window_of(trail.material) if trail else None, hardware_of(trail.printer) if trail else None)
    plan = plan_steps(blocks_of(path), series)
    return StepPlan(
        series=series_view(series),
        insertions=[InsertionView.model_validate(i) for i in plan.insertions],
        bands=[BandAtView.model_validate(b) for b in plan.bands],
        cautions=[WarningView.model_validate(c) for c in cautions],
    )


def stepped_file(workspace: Workspace, file_id: str, told: SeriesIn) -> tuple[Iterator[bytes], str]:
    """The file with the commands of a series put in, piece by piece, and a name for it."""
    series = series_told(told)
    path, _ = _path(workspace, file_id)
    check_series(series)
    plan = plan_steps(blocks_of(path), series)
    with workspace.read() as session:
        name = Path(find(session, GcodeFile, file_id).name)
    return with_insertions(blocks_of(path), plan.insertions), f"{name.stem}-{series.setting.replace('_', '-')}.gcode"


def _path(workspace: Workspace, file_id: str) -> tuple[Path, str | None]:
    with workspace.read() as session:
        kept = find(session, GcodeFile, file_id)
        path, trail_id = workspace.files.path(kept.sha256), kept.trail_id
    if not path.is_file():
        raise DataFolderError("this file is missing from the data folder: take it from a backup")
    return path, trail_id


def retract_file(workspace: Workspace, actor: Actor, file_id: str, back: bool) -> GcodeList:
    """Take a file out of the list, or (with `back`) in again."""
    with workspace.write(actor) as unit:
        kept = find(unit.session, GcodeFile, file_id)
        kept.retracted_at = None if back else unit.now
        unit.log("G-code file", file_id, "brought back" if back else "retracted")
    return list_files(workspace)
