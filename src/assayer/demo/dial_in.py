"""A sight glass for the syrup feeder, clear and watertight: twelve trials, two of them failed, a graded fan tower, its file, a few photographs."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal

from assayer.core.errors import AssayerError
from assayer.demo.maker import ACTORS, Maker
from assayer.demo.pictures import printed_wall
from assayer.demo.tower_file import tower_gcode
from assayer.services.dial_in import hardware, hardware_changes, trails, trials
from assayer.services.dial_in.requests import (
    GradeIn,
    NewBedSurface,
    NewDialCalibration,
    NewGrades,
    NewNozzle,
    NewPrinterChange,
    NewTrail,
    NewTrial,
    RunningChange,
    SeriesIn,
    SetIn,
    TrialRecord,
)
from assayer.services.dial_in.views import TrialView
from assayer.services.gcode.files import MadeFor, keep_file
from assayer.services.gcode.inspections import inspect_file
from assayer.services.photos.photos import add_photo
from assayer.services.printing import printers
from assayer.services.unit import find
from assayer.store.models import Trail, Trial

BANDS = 6
TOWER = SeriesIn(setting="fan", start=0, step=20, count=BANDS, band_height=7, base_height=1.4)

GRADES = ("stringing", "surface", "bridging", "layers")


@dataclass(frozen=True, slots=True)
class Printed:
    """One trial of the trail: what it changed, and what came of it; g, mm, min, hours before now."""

    number: int
    start: int
    changes: dict[str, Any]
    hours: float
    outcome: Literal["good", "poor", "failed"]
    minutes: float
    mass: float
    grades: tuple[int, ...] = ()
    decision: Literal["keep", "drop"] = "keep"
    failed_at: float | None = None
    note: str = ""
    symptoms: tuple[str, ...] = ()


_SLOW = {"speed_outer": 40.0, "speed_inner": 50.0, "speed_infill": 50.0}

PLAN: tuple[Printed, ...] = (
    Printed(
        1, 0, {}, 92, "poor", 52, 9.1, (3, 1, 3, 1), "drop", note="Milky as bath glass; syrup wept between the layers.", symptoms=("gaps", "weak layers"),
    ),
    Printed(2, 1, _SLOW, 90, "poor", 58, 9.2, (3, 2, 3, 2), note="Slower: less milk, and tight for an hour. Then it wept at the seam.", symptoms=("gaps",)),
    Printed(3, 2, {"infill": 100.0}, 72, "good", 64, 11.2, (2, 2, 3, 3), note="Solid now: held syrup overnight. Still milky."),
    Printed(4, 3, {"seam": "scattered"}, 69, "failed", 40, 6.9, (), "drop", 62, "The wall opened where seams met; stopped when it dripped.", ("gaps",)),
    Printed(5, 3, {"nozzle_temperature": 252.0}, 66, "good", 64, 11.2, (1, 3, 3, 3), note="The level can be read through it, close by.", symptoms=("strings",)),
    Printed(
        6, 5, {"speed_infill": 80.0, "layer_height": 0.36}, 64, "poor", 47, 11.6, (1, 1, 2, 3), "drop", note="Faster and thicker: stripes like a blind.",
        symptoms=("wavy walls",),
    ),
    Printed(7, 6, {"layer_height": 0.2}, 48, "poor", 85, 11.1, (1, 2, 3, 3), "drop", note="Thin layers, more of them: mist instead of stripes."),
    Printed(8, 5, {"nozzle_temperature": 262.0}, 46, "failed", 39, 6.8, (), "drop", 61, "It boiled: bubbles in the wall. Stopped.", ("blobs",)),
    Printed(10, 5, {"fan": 20.0}, 26, "good", 64, 11.2, (2, 3, 3, 4), note="Less air, clearer wall; the ledge under the rim still closes, as the tower said."),
)  # fmt: skip

_TOWER, _CALIBRATED = 9, 11


def dial_in(maker: Maker, now: datetime, found: dict[tuple[str, str, str], str], spools: dict[str, str]) -> None:
    """The search for the settings of the sight glass, up to the sheet that was accepted and the trial that is planned next."""
    box = _equip(maker, now)
    ids = {1: maker.id()}
    trail = maker.id()
    maker.clock.now = now - timedelta(hours=96)
    new = NewTrail(id=trail, material_id=found["Tarn", "Clearwater", "smoke"], printer_id=box, purpose="Sight glass", part="glass", trial_id=ids[1])
    trails.add_trail(maker.workspace, ACTORS[0], new)
    for plan in PLAN:
        maker.clock.now = now - timedelta(hours=plan.hours)
        if plan.number == _TOWER + 1:
            _tower(maker, now, ids, spools["clearwater"])
        if plan.number > 1:
            _plan(maker, ids, plan.number, plan.start, plan.changes)
        record = TrialRecord(
            outcome=plan.outcome,
            failed_at=plan.failed_at,
            printed_at=maker.clock.now,
            minutes=plan.minutes,
            total_mass=plan.mass,
            room=round(20.5 + maker.noise.standard_normal() * 0.6, 1),
            spool_id=spools["clearwater"],
            symptoms=list(plan.symptoms),
            removal="by hand" if plan.outcome != "failed" else "",
            decision=plan.decision,
            note=plan.note,
            while_running=[RunningChange(layer=40, what="a lamp held behind it to look")] if plan.number == 7 else None,
            grades=[GradeIn(id=maker.id(), trait=t, grade=g) for t, g in zip(GRADES, plan.grades, strict=False)],
        )
        _record(maker, ids, plan.number, record)
    _finish(maker, now, ids, trail, spools["clearwater"])


def _equip(maker: Maker, now: datetime) -> str:
    """Nozzles and surfaces with what became of them; returns the printer of the trail."""
    by_name = {p.name: p.id for p in printers.list_printers(maker.workspace).items}
    maker.clock.now = now - timedelta(days=30)
    nozzles = {}
    for name, diameter, material, hardened in (
        ("Brass 0.4", 0.4, "brass", False),
        ("Steel 0.6", 0.6, "tool steel", True),
        ("Old brass 0.4", 0.4, "brass", False),
    ):
        nozzles[name] = maker.id()
        hardware.add_nozzle(maker.workspace, ACTORS[0], NewNozzle(id=nozzles[name], name=name, diameter=diameter, material=material, hardened=hardened))
    surfaces = {name: maker.id() for name in ("Textured sheet", "Smooth sheet")}
    for name, key in surfaces.items():
        hardware.add_bed_surface(maker.workspace, ACTORS[0], NewBedSurface(id=key, name=name))

    def change(days: float, printer: str, kind: Any, **more: Any) -> None:
        maker.clock.now = now - timedelta(days=days)
        new = NewPrinterChange(id=maker.id(), at=maker.clock.now, kind=kind, **more)
        hardware_changes.change_printer(maker.workspace, ACTORS[1], by_name[printer], new)

    change(28, "Bench One", "nozzle", nozzle_id=nozzles["Old brass 0.4"])
    change(28, "Warm Box", "nozzle", nozzle_id=nozzles["Steel 0.6"])
    change(27, "Warm Box", "bed surface", bed_surface_id=surfaces["Textured sheet"])
    change(19, "Warm Box", "frame", text="a cross tie between the uprights")
    change(6, "Bench One", "nozzle", nozzle_id=nozzles["Brass 0.4"], retire=True)
    change(3.2, "Warm Box", "bed surface", bed_surface_id=surfaces["Smooth sheet"])
    return by_name["Warm Box"]


def _of(maker: Maker, ids: dict[int, str], number: int) -> TrialView:
    with maker.workspace.read() as session:
        trial = find(session, Trial, ids[number])
        view = trails.trail_view(session, find(session, Trail, trial.trail_id))
    return next(t for t in view.trials if t.id == ids[number])


def _plan(maker: Maker, ids: dict[int, str], number: int, start: int, changes: dict[str, Any], **more: Any) -> None:
    ids[number] = maker.id()
    held = {name: SetIn(value=value) for name, value in changes.items()}
    made, _ = trials.add_trial(maker.workspace, ACTORS[0], NewTrial(id=ids[number], parent_id=ids[start], changes=held, **more))
    if made.trials[-1].number != number:
        raise AssayerError(f"the demo's trial {number} became {made.trials[-1].number}")


def _record(maker: Maker, ids: dict[int, str], number: int, record: TrialRecord) -> None:
    trials.record_trial(maker.workspace, ACTORS[number % 2], ids[number], record, _of(maker, ids, number).revision)


def _tower(maker: Maker, now: datetime, ids: dict[int, str], spool_id: str) -> None:
    maker.clock.now = now - timedelta(hours=30)
    # bands of 7 mm are 25 whole layers of 0.28 mm
    _plan(maker, ids, _TOWER, 5, {"layer_height": 0.28, "layer_height_first": 0.28}, series=TOWER, part="fan tower")
    _record(maker, ids, _TOWER, TrialRecord(outcome="good", minutes=94, total_mass=11.8, room=20.9, spool_id=spool_id, decision="keep"))
    rows = {
        "bridging": (1, 2, 3, 4, 4, 4),
        "overhang": (2, 2, 3, 3, 4, 4),
        "layers": (4, 4, 4, 3, 2, 1),
        "surface": (4, 4, 3, 3, 2, 2),
        "stringing": (2, 2, 2, 3, 3, 3),
        "fine_detail": (1, 2, 3, 3, 4, 4),
    }
    grades = [GradeIn(id=maker.id(), trait=t, grade=g, band=b) for t, row in rows.items() for b, g in enumerate(row, 1)]
    trials.grade_trial(maker.workspace, ACTORS[1], ids[_TOWER], NewGrades(grades=grades))
    data = tower_gcode(BANDS, TOWER.band_height, TOWER.base_height, (252, 252), 78)
    with maker.workspace.files.incoming() as coming:
        coming.write(data)
        coming.finish()
        trail_id = _trail_of(maker, ids[_TOWER])
        keep_file(maker.workspace, ACTORS[0], maker.id(), "fan-tower.gcode", coming, inspect_file(coming.path), MadeFor(trail_id, ids[_TOWER]))
    maker.clock.now = now - timedelta(hours=26)


def _trail_of(maker: Maker, trial_id: str) -> str:
    with maker.workspace.read() as session:
        return find(session, Trial, trial_id).trail_id


def _finish(maker: Maker, now: datetime, ids: dict[int, str], trail: str, spool_id: str) -> None:
    """Flow by the wall, the print that was accepted, photographs, and what is planned next."""
    maker.clock.now = now - timedelta(hours=20)
    ids[_CALIBRATED] = maker.id()
    walls = [0.684, 0.672, 0.679, 0.688, 0.677]
    new = NewDialCalibration(id=maker.id(), trial_id=ids[_CALIBRATED], parent_id=ids[10], kind="flow by wall", at=maker.clock.now, walls=walls)
    trials.calibrate_trail(maker.workspace, ACTORS[1], new)
    maker.clock.now = now - timedelta(hours=18)
    grades = [GradeIn(id=maker.id(), trait=t, grade=g) for t, g in zip((*GRADES, "fine_detail"), (3, 3, 3, 4, 3), strict=True)]
    note = "Held syrup for two days; the level is read from a metre away."
    record = TrialRecord(
        outcome="good", printed_at=maker.clock.now, minutes=64, total_mass=11.0, room=20.8, spool_id=spool_id, tested="cold",
        removal="by hand", decision="keep", note=note, grades=grades,
    )  # fmt: skip
    _record(maker, ids, _CALIBRATED, record)
    others = [GradeIn(id=maker.id(), trait="surface", grade=2), GradeIn(id=maker.id(), trait="stringing", grade=3)]
    trials.grade_trial(maker.workspace, ACTORS[0], ids[_CALIBRATED], NewGrades(grades=others))
    for number, caption, depth in (
        (6, "a lamp behind the wall", 26.0),
        (_CALIBRATED, "a lamp behind the wall", 5.0),
        (_CALIBRATED, "ledge under the rim", 9.0),
    ):
        add_photo(maker.workspace, ACTORS[1], maker.id(), "trial", ids[number], printed_wall(maker.noise, depth), caption)
    trials.accept_trial(maker.workspace, ACTORS[0], ids[_CALIBRATED], back=False)
    maker.clock.now = now - timedelta(hours=2)
    _plan(maker, ids, 12, _CALIBRATED, {"acceleration": 600.0})
