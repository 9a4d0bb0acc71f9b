"""Plates as they are shown: what is next and why, what it takes, which ones share a file. A few queries however many."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from math import pi

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session

from assayer.core.filament.moisture import open_limit
from assayer.core.plan.plates import layer_evenness
from assayer.core.shapes.base import Shape
from assayer.core.shapes.printed import FLAT, shadow, stand, takes_code
from assayer.services.parts.shapes import shape_of
from assayer.services.printing.open_slots import free_spares, open_slots
from assayer.services.printing.views import BedView, FootprintView, PlacedView, PlateFile, PlateLayout, PlateList, PlateSpool, PlateView, SpareView
from assayer.services.stock.spool_state import SpoolState, states_of
from assayer.services.studies.evidence import arms_of
from assayer.services.studies.power import RATE
from assayer.store.models import Arm, Batch, GcodeFile, Plate, PlatePlace, Printer, Slot, Spool, Study, Test

_ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth")


@dataclass(frozen=True, slots=True)
class _Takes:
    """What a layout is made of: cm³ in all, the least share of its longest layer time."""

    volume: float
    evenness: float


_ROWS = select(Plate.id, Plate.number, Plate.arm_id, Plate.part, Plate.layout, Plate.printer_id)
"""What differs from plate to plate; how it lies is read once for those that are alike."""

_PlateRow = Row[str, int, str, int, str, str]


def plate_list(session: Session, study: Study, now: datetime) -> PlateList:
    """All plates of a study, the layouts they share, and what lies on none."""
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.study_id == study.id).order_by(Test.position))}
    arms = {a.id: a for a in arms_of(session, study.id)}
    plates = session.execute(_ROWS.where(Plate.study_id == study.id).order_by(Plate.number)).all()
    layouts = _layouts(session, plates, tests)
    waiting, again = open_slots(session, list(tests))
    return PlateList(
        study_id=study.id,
        revision=study.revision,
        unplaced=sum(map(len, waiting.values())) + sum(map(len, again.values())),
        layouts=[view for view, _ in layouts.values()],
        plates=_plates(session, study.id, plates, arms, {key: takes for key, (_, takes) in layouts.items()}, now),
        spares=_spares(session, study.id, again),
    )


def _spares(session: Session, study_id: str, again: Mapping[tuple[str, str], list[str]]) -> list[SpareView]:
    """Spares that could fill a replicate which was left out."""
    if not again:
        return []
    free = free_spares(session, study_id)
    numbers = {key: number for key, number in session.execute(select(Slot.id, Slot.number).where(Slot.id.in_([s for own in again.values() for s in own])))}
    return [
        SpareView(test_id=test_id, arm_id=arm_id, slot_id=slot_id, number=numbers[slot_id], specimen_id=spare.id, code=spare.code)
        for (test_id, arm_id), slots in again.items()
        for slot_id, spare in zip(slots, free.get((test_id, arm_id), []), strict=False)
    ]


def _layouts(session: Session, plates: Sequence[_PlateRow], tests: Mapping[str, Test]) -> dict[str, tuple[PlateLayout, _Takes]]:
    """Each layout once, read off the first plate that has it."""
    first: dict[str, str] = {}
    for plate in plates:
        first.setdefault(plate.layout, plate.id)
    read = {p.id: p for p in session.scalars(select(Plate).where(Plate.id.in_(first.values())))}
    places: dict[str, list[PlatePlace]] = defaultdict(list)
    wanted = select(PlatePlace).where(PlatePlace.plate_id.in_(first.values())).order_by(PlatePlace.position)
    for place in session.scalars(wanted):
        places[place.plate_id].append(place)
    alike: dict[str, list[int]] = defaultdict(list)
    for plate in plates:
        alike[plate.layout].append(plate.number)
    return {key: _layout(read[plate_id], places[plate_id], tests, alike[key]) for key, plate_id in first.items()}


def _layout(plate: Plate, places: Sequence[PlatePlace], tests: Mapping[str, Test], alike: list[int]) -> tuple[PlateLayout, _Takes]:
    kinds: dict[str, FootprintView] = {}
    pieces, areas, volume = [], [], 0.0
    of_test = {key: _footprint(shape_of(tests[key]), tests[key].orientation, plate.brim) for key in {p.test_id for p in places}}
    for place in places:
        test = tests[place.test_id]
        kind, print_, each = of_test[test.id]
        kinds[kind] = print_
        volume += each
        areas.append((print_.height, 1000 * each / print_.height))
        pieces.append(
            PlacedView(
                position=place.position, test_id=test.id, kind=kind, spare=place.slot_id is None, x=place.x, y=place.y, turned=place.turned, code=place.code,
            )
        )  # fmt: skip
    evenness = 1.0 if plate.one_by_one else layer_evenness(areas)
    view = PlateLayout(
        key=plate.layout, bed=BedView.model_validate(plate.bed), one_by_one=plate.one_by_one, kinds=list(kinds.values()), pieces=pieces, evenness=evenness,
        plates=alike,
    )  # fmt: skip
    return view, _Takes(volume, evenness)


@lru_cache(maxsize=256)
def _footprint(made: Shape, orientation: str, brim: float) -> tuple[str, FootprintView, float]:
    s = stand(made, orientation)
    kind = f"{made.label}, {orientation}"
    outline = [[(round(float(x), 2), round(float(y), 2)) for x, y in loop] for loop in shadow(made, orientation)]
    view = FootprintView(
        kind=kind, width=s.width, depth=s.depth, height=s.height, brim=brim if s.brim else 0.0, outline=outline,
        takes_code=orientation == FLAT and takes_code(made),
    )  # fmt: skip
    return kind, view, made.volume


def _plates(
    session: Session, study_id: str, plates: Sequence[_PlateRow], arms: Mapping[str, Arm], takes: Mapping[str, _Takes], now: datetime
) -> list[PlateView]:
    printed = select(Plate.id, Batch.id).join(Batch, Batch.plate_id == Plate.id).where(Plate.study_id == study_id)
    batches = {plate_id: batch_id for plate_id, batch_id in session.execute(printed)}
    printers = {key: name for key, name in session.execute(select(Printer.id, Printer.name))} if plates else {}
    spools = _spools(session, [arms[key] for key in {p.arm_id for p in plates if p.id not in batches}], now)
    files = _files(session, study_id)
    parts: dict[str, int] = defaultdict(int)
    for p in plates:
        parts[p.arm_id] = max(parts[p.arm_id], p.part)
    rounds, done = Counter(p.part for p in plates), Counter(p.part for p in plates if p.id in batches)
    of_arm = {key: (a.variant.material.density, a.variant.sheet) for key, a in arms.items()}
    found = []
    for p in plates:
        density, sheet = of_arm[p.arm_id]
        volume = takes[p.layout].volume
        file = files.get(p.id)
        found.append(
            PlateView(
                id=p.id,
                number=p.number,
                arm_id=p.arm_id,
                part=p.part,
                parts=parts[p.arm_id],
                layout=p.layout,
                printer_id=p.printer_id,
                printer=printers.get(p.printer_id, ""),
                sheet=sheet.name,
                sheet_id=sheet.id,
                mass=_mass(file, arms[p.arm_id]) or (None if density is None else volume * density),
                minutes=file.time_s / 60 if file is not None else 1000 * volume / RATE / 60,
                file=file,
                batch_id=batches.get(p.id),
                spool=spools.get(p.arm_id) if p.id not in batches else None,
                why=_why(p, rounds[p.part], done[p.part]),
            )
        )
    return found


def _why(plate: _PlateRow, of_round: int, printed: int) -> str:
    """Why it stands where it stands in the order."""
    word = _ORDINALS[plate.part - 1] if plate.part <= len(_ORDINALS) else f"{plate.part}th"
    if of_round == 1:
        return f"the only plate of a {word} batch"
    return f"drawn at random among the {of_round} plates of all {word} batches, {printed} printed"


def _files(session: Session, study_id: str) -> dict[str, PlateFile]:
    """The file that was attached to each plate last: two figures of its inspection, which is too long to be read for each."""
    f, found = GcodeFile, GcodeFile.found
    rows = session.execute(
        select(f.plate_id, f.id, f.name, found["time_s"].as_float().label("time_s"), found["filament_mm"].as_float().label("filament_mm"))
        .join(Plate, Plate.id == f.plate_id)
        .where(Plate.study_id == study_id, f.retracted_at.is_(None))
        .order_by(f.added_at)
    )
    return {r.plate_id: PlateFile(id=r.id, name=r.name, time_s=r.time_s, filament_mm=r.filament_mm) for r in rows}


def _mass(file: PlateFile | None, arm: Arm) -> float | None:
    m = arm.variant.material
    return None if file is None or m.density is None else strand_mass(file.filament_mm, m.diameter, m.density)


def strand_mass(length: float, diameter: float, density: float) -> float:
    """g of a strand of `length` and `diameter` in mm and `density` in g/cm³."""
    return length * pi / 4 * diameter**2 * density / 1000


def _spools(session: Session, arms: Sequence[Arm], now: datetime) -> dict[str, PlateSpool]:
    """The spool that each arm is planned to be printed from, or else the fullest of its material that is at hand."""
    materials = {a.variant.material_id for a in arms}
    there = session.scalars(select(Spool).where(Spool.material_id.in_(materials), Spool.gone_at.is_(None), func.coalesce(Spool.decision, "") != "reject")).all()
    states = states_of(session, there, now, in_full=False)
    # by the material, and each by itself
    at_hand: dict[str, list[SpoolState]] = defaultdict(list)
    for spool in there:
        at_hand[spool.material_id].append(states[spool.id])
        at_hand[spool.id].append(states[spool.id])
    found = {}
    for arm in arms:
        own = at_hand.get(arm.spool_id or arm.variant.material_id, [])
        if own:
            found[arm.id] = _spool(max(own, key=lambda f: f.balance.left if f.balance else -1.0), now)
    return found


def _spool(facts: SpoolState, now: datetime) -> PlateSpool:
    state, limit = facts.moisture, open_limit(facts.spool.material.polymer)
    left = None if limit is None or state.kind not in ("dried", "open") else limit - state.open_hours
    return PlateSpool(
        id=facts.spool.id,
        code=facts.spool.code,
        left=facts.balance.left if facts.balance else None,
        moisture=state.words,
        stale=facts.stale,
        dry_until=None if left is None or left <= 0 or state.storage != "open" else now + timedelta(hours=left),
    )
