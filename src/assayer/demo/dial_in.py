"""A polypropylene that lifts: twelve trials with two failures and a rescue, a graded fan tower, its file, a few photographs."""

from __future__ import annotations

import io
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal

import numpy as np

from assayer.core.errors import AssayerError
from assayer.demo.maker import ACTORS, Maker
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

GRADES = ("stringing", "surface", "bridging", "flatness")


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
    brim: float | None
    lift: float
    grades: tuple[int, ...] = ()
    decision: Literal["keep", "drop"] = "keep"
    failed_at: float | None = None
    note: str = ""
    symptoms: tuple[str, ...] = ()


PLAN: tuple[Printed, ...] = (
    Printed(
        1, 0, {}, 92, "failed", 16, 1.6, None, 3.1, (), "drop", 38, "Curled off the textured sheet, one corner after the other.", ("lifting corners",)
    ),
    Printed(
        2, 1, {"brim": 8.0}, 90, "poor", 43, 5.3, 1.2, 1.4, (1, 2, 3, 1), note="Held to the end; the brim came up with the corners.",
        symptoms=("lifting corners", "strings"),
    ),
    Printed(
        3, 2, {"bed_surface": "packing tape"}, 72, "good", 43, 5.3, 1.2, 0.4, (1, 2, 3, 3), note="The rescue: snapped in 20 times.", symptoms=("strings",)
    ),
    Printed(5, 3, {"nozzle_temperature": 222.0}, 66, "good", 43, 5.2, 1.2, 0.3, (2, 2, 3, 3)),
    Printed(
        6, 5, {"speed_infill": 80.0, "layer_height": 0.36}, 64, "poor", 31, 5.4, 1.2, 0.4, (2, 1, 2, 3), "drop", note="Waves in the wall.",
        symptoms=("wavy walls",),
    ),
    Printed(7, 6, {"layer_height": 0.3}, 48, "poor", 37, 5.2, 1.2, 0.4, (2, 2, 3, 3), "drop"),
    Printed(8, 5, {"brim": 4.0}, 46, "failed", 26, 3.1, 0.6, 2.2, (), "drop", 61, "Came off while it printed the hook.", ("lifting corners",)),
    Printed(10, 5, {"fan": 60.0}, 26, "good", 43, 5.2, 1.2, 0.3, (3, 2, 4, 3), note="Bridges closed, as the tower said."),
)  # fmt: skip

_CONTROL, _TOWER, _CALIBRATED = 4, 9, 11


def dial_in(maker: Maker, now: datetime, found: dict[tuple[str, str, str], str], spools: dict[str, str]) -> None:
    """The search for the clip's settings, up to the sheet that was accepted and the trial that is planned next."""
    box = _equip(maker, now)
    ids = {1: maker.id()}
    trail = maker.id()
    maker.clock.now = now - timedelta(hours=96)
    new = NewTrail(id=trail, material_id=found["Stell", "Pliant", "white"], printer_id=box, purpose="Feeder clip", part="clip", trial_id=ids[1])
    trails.add_trail(maker.workspace, ACTORS[0], new)
    for plan in PLAN:
        maker.clock.now = now - timedelta(hours=plan.hours)
        if plan.number == _CONTROL + 1:
            _control(maker, ids, found["Hollin", "Everyday", "amber"], spools["everyday"])
        if plan.number == _TOWER + 1:
            _tower(maker, now, ids, spools["white"])
        if plan.number > 1:
            _plan(maker, ids, plan.number, plan.start, plan.changes)
        record = TrialRecord(
            outcome=plan.outcome,
            failed_at=plan.failed_at,
            printed_at=maker.clock.now,
            minutes=plan.minutes,
            total_mass=plan.mass,
            brim_mass=plan.brim,
            lift=plan.lift,
            room=round(20.5 + maker.noise.standard_normal() * 0.6, 1),
            spool_id=spools["white"],
            symptoms=list(plan.symptoms),
            removal="flexed" if plan.outcome != "failed" else "",
            decision=plan.decision,
            note=plan.note,
            while_running=[RunningChange(layer=40, what="door opened to look")] if plan.number == 7 else None,
            grades=[GradeIn(id=maker.id(), trait=t, grade=g) for t, g in zip(GRADES, plan.grades, strict=False)],
        )
        _record(maker, ids, plan.number, record)
    _finish(maker, now, ids, trail, spools["white"])


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
    surfaces = {name: maker.id() for name in ("Textured sheet", "Smooth sheet, taped")}
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
    change(3.2, "Warm Box", "bed surface", bed_surface_id=surfaces["Smooth sheet, taped"])
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


def _control(maker: Maker, ids: dict[int, str], material_id: str, spool_id: str) -> None:
    """Another material under the same hold-down: is it the material or the surface?"""
    _plan(maker, ids, _CONTROL, 3, {}, control_material_id=material_id)
    grades = [GradeIn(id=maker.id(), trait="flatness", grade=4)]
    note = "Lies flat on the same tape: it is the material, not the surface."
    _record(
        maker, ids, _CONTROL,
        TrialRecord(outcome="good", minutes=40, total_mass=6.1, brim_mass=1.3, lift=0, spool_id=spool_id, grades=grades, decision="keep", note=note),
    )  # fmt: skip
    maker.clock.now += timedelta(minutes=50)


def _tower(maker: Maker, now: datetime, ids: dict[int, str], spool_id: str) -> None:
    maker.clock.now = now - timedelta(hours=30)
    # bands of 7 mm are 25 whole layers of 0.28 mm
    _plan(maker, ids, _TOWER, 5, {"layer_height": 0.28, "layer_height_first": 0.28}, series=TOWER, part="fan tower")
    _record(maker, ids, _TOWER, TrialRecord(outcome="good", minutes=94, total_mass=11.8, room=20.9, spool_id=spool_id, decision="keep"))
    rows = {
        "bridging": (1, 2, 3, 4, 4, 4),
        "overhang": (2, 2, 3, 3, 4, 4),
        "layers": (4, 4, 4, 3, 2, 1),
        "surface": (3, 3, 3, 3, 2, 2),
        "stringing": (2, 2, 2, 3, 3, 3),
        "fine_detail": (1, 2, 3, 3, 4, 4),
    }
    grades = [GradeIn(id=maker.id(), trait=t, grade=g, band=b) for t, row in rows.items() for b, g in enumerate(row, 1)]
    trials.grade_trial(maker.workspace, ACTORS[1], ids[_TOWER], NewGrades(grades=grades))
    data = tower_gcode(BANDS, TOWER.band_height, TOWER.base_height, (230, 222), 92)
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
    grades = [GradeIn(id=maker.id(), trait=t, grade=g) for t, g in zip((*GRADES, "layers"), (3, 3, 4, 3, 3), strict=True)]
    note = "Snapped in 20 times, cold; lies flat enough for the frame."
    record = TrialRecord(
        outcome="good", printed_at=maker.clock.now, minutes=43, total_mass=5.1, brim_mass=1.2, lift=0.2, room=20.8, spool_id=spool_id, tested="cold",
        removal="flexed", decision="keep", note=note, grades=grades,
    )  # fmt: skip
    _record(maker, ids, _CALIBRATED, record)
    others = [GradeIn(id=maker.id(), trait="surface", grade=2), GradeIn(id=maker.id(), trait="stringing", grade=3)]
    trials.grade_trial(maker.workspace, ACTORS[0], ids[_CALIBRATED], NewGrades(grades=others))
    for number, caption, depth in ((6, "clip, outer wall", 26.0), (_CALIBRATED, "clip, outer wall", 5.0), (_CALIBRATED, "hook from below", 9.0)):
        add_photo(maker.workspace, ACTORS[1], maker.id(), "trial", ids[number], _photograph(maker.noise, depth), caption)
    trials.accept_trial(maker.workspace, ACTORS[0], ids[_CALIBRATED], back=False)
    maker.clock.now = now - timedelta(hours=2)
    _plan(maker, ids, 12, _CALIBRATED, {"speed_outer": 22.0})


def _photograph(noise: np.random.Generator, depth: float) -> bytes:
    """A made-up close-up of layered plastic: the deeper its waves, the rougher it looks."""
    from PIL import Image

    height, width = 600, 900
    y, x = np.mgrid[0:height, 0:width]
    waves = np.sin(y / 3.4 + 0.6 * np.sin(x / 61.0) + depth / 26 * np.sin(y / 41.0)) * depth
    light = 176 + 34 * (x / width) - 40 * np.abs(y / height - 0.45) + waves + noise.standard_normal((height, width)) * 4
    grey = np.clip(light, 0, 255).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(np.stack([grey, grey, np.clip(grey + 4.0, 0, 255).astype(np.uint8)], axis=2)).save(out, "JPEG", quality=88)
    return out.getvalue()
