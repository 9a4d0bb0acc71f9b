"""What waits to be printed, laid out on plates: made, taken back, looked at."""

from __future__ import annotations

import hashlib
import json
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from functools import lru_cache
from typing import TYPE_CHECKING

from sqlalchemy import Select, delete, func, insert, select, update
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.plan.plates import Bed, Piece, interleaved, lay_out, split
from assayer.core.plan.study_plan import StudiedFactor
from assayer.core.shapes.base import Shape
from assayer.core.shapes.printed import stand
from assayer.services.parts.shapes import shape_of
from assayer.services.printing.open_slots import open_slots
from assayer.services.printing.plate_views import plate_list
from assayer.services.printing.views import PlateList
from assayer.services.studies.evidence import arms_of
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Batch, GcodeFile, Plate, PlatePlace, Printer, Study, Test

if TYPE_CHECKING:
    from assayer.services.printing.requests import NewPlates

Item = tuple[str, str | None]
"""A test and its slot; without one a spare."""


@dataclass(frozen=True, slots=True)
class _Laid:
    """A plate as it will be kept: its places as (item, x, y, turned)."""

    arm_id: str
    part: int
    layout: str
    places: list[tuple[Item, float, float, bool]]


def plates_of(workspace: Workspace, study_id: str) -> PlateList:
    """The plates of a study in the order of printing, and what each is printed from."""
    with workspace.read() as session:
        return plate_list(session, find(session, Study, study_id), workspace.clock())


def lay_plates(workspace: Workspace, actor: Actor, study_id: str, told: NewPlates) -> PlateList:
    """Lay out what waits to be printed and lies on no plate yet; reckoned before anybody is kept from writing.

    Raises
    ------
    EntryError
        If the printer's size is not known, or a specimen is larger than its bed.
    ConflictError
        If nothing waits, or the plan was changed meanwhile.
    """
    with workspace.read() as session:
        study = find(session, Study, study_id)
        bed = bed_of(find(session, Printer, told.printer_id))
        revision = study.revision
        laid = _laid(session, study, bed, told)
    if not laid:
        raise ConflictError("everything planned is printed or lies on a plate already")
    with workspace.write(actor) as unit:
        study = find(unit.session, Study, study_id)
        if study.revision != revision:
            raise ConflictError("the study was changed meanwhile: lay it out again")
        _keep(unit, study, bed, told, laid)
        unit.touch(study_id)
        unit.log("study", study_id, "plates laid out", after={"plates": len(laid), "specimens": sum(len(p.places) for p in laid)})
    return plates_of(workspace, study_id)


def take_back_plates(workspace: Workspace, actor: Actor, study_id: str) -> PlateList:
    """Take back all plates that were not printed; what lay on them waits again."""
    with workspace.write(actor) as unit:
        study = find(unit.session, Study, study_id)
        ids = list(unit.session.scalars(_unprinted(study_id)))
        unit.session.execute(update(GcodeFile).where(GcodeFile.plate_id.in_(ids)).values(plate_id=None))
        unit.session.execute(delete(PlatePlace).where(PlatePlace.plate_id.in_(ids)))
        unit.session.execute(delete(Plate).where(Plate.id.in_(ids)))
        unit.touch(study_id)
        unit.log("study", study_id, "plates taken back", after={"plates": len(ids)})
        unit.session.flush()
        return plate_list(unit.session, study, unit.now)


def bed_of(printer: Printer) -> Bed:
    """What a printer has to print on.

    Raises
    ------
    EntryError
        If its size is not known.
    """
    if printer.build_x is None or printer.build_y is None or printer.build_z is None:
        raise EntryError(f"how large a part {printer.name} builds is not known: say its width, depth and height first", "printer_id")
    usual = Bed(printer.build_x, printer.build_y, printer.build_z)
    keep_out = tuple((k[0], k[1], k[2], k[3]) for k in printer.keep_out or [])
    said = {name: value for name in ("margin", "clearance", "passes_over") if (value := getattr(printer, name)) is not None}
    return Bed(usual.width, usual.depth, usual.height, keep_out=keep_out, **said)


def _unprinted(study_id: str) -> Select[str]:
    return select(Plate.id).where(Plate.study_id == study_id, ~select(Batch.id).where(Batch.plate_id == Plate.id).exists())


def _laid(session: Session, study: Study, bed: Bed, told: NewPlates) -> list[_Laid]:
    """All new plates, in the order of printing."""
    arms = arms_of(session, study.id)
    tests = session.scalars(select(Test).where(Test.study_id == study.id).order_by(Test.position)).all()
    waiting, again = open_slots(session, [t.id for t in tests])
    spares = _spares_there(session, study.id) if told.spares else {}
    parts = _parts_there(session, study.id)
    halves: dict[tuple[str, int], list[Item]] = {}
    for arm in arms:
        if study.studied_factor == StudiedFactor.PRINTER and arm.printer_id != told.printer_id:
            continue
        dealt: dict[int, list[Item]] = defaultdict(list)
        for test in tests:
            own: list[Item] = [(test.id, s) for s in [*waiting.get((test.id, arm.id), []), *again.get((test.id, arm.id), [])]]
            if told.spares:
                own += [(test.id, None)] * max(0, test.spares - spares.get((arm.id, test.id), 0))
            for part, numbers in enumerate(split(range(len(own)), told.batches), 1):
                dealt[part] += [own[n] for n in numbers]
        for part, items in dealt.items():
            halves[arm.id, part] = items
    batches = Counter(arm_id for arm_id, _ in halves)
    pieces = {t.id: piece_of(t, told.brim) for t in tests}
    # what is laid later is drawn anew: by the same seed it would follow the order of before
    order = interleaved([a.id for a in arms if batches[a.id]], batches, study.seed + sum(parts.values()))
    found = []
    for arm_id, part in order:
        items = halves[arm_id, part]
        for plate in _layout(tuple(pieces[test_id] for test_id, _ in items), bed, told.one_by_one):
            places = [(items[p.piece], p.x, p.y, p.turned) for p in plate]
            found.append(_Laid(arm_id, parts.get(arm_id, 0) + part, _key(bed, told, places), places))
    return found


_layout = lru_cache(maxsize=32)(lay_out)
"""Arms of one plan have the same pieces."""


def piece_of(test: Test, brim: float) -> Piece:
    """What a specimen of a test takes of the bed."""
    return _piece(shape_of(test), test.orientation, brim)


@lru_cache(maxsize=256)
def _piece(made: Shape, orientation: str, brim: float) -> Piece:
    s = stand(made, orientation)
    if not s.stands:
        raise EntryError(f"the {made.label} cannot be printed {orientation}: it would fall over", "tests")
    return Piece(f"{made.label}, {orientation}", s.width, s.depth, s.height, brim if s.brim else 0.0)


def _key(bed: Bed, told: NewPlates, places: Sequence[tuple[Item, float, float, bool]]) -> str:
    """The same for plates on which the same lies at the same places."""
    said = [asdict(bed), told.one_by_one, told.brim, told.printer_id, [(test, slot is None, x, y, turned) for (test, slot), x, y, turned in places]]
    return hashlib.sha256(json.dumps(said).encode()).hexdigest()[:32]


def _spares_there(session: Session, study_id: str) -> Mapping[tuple[str, str], int]:
    rows = session.execute(
        select(Plate.arm_id, PlatePlace.test_id, func.count())
        .join(PlatePlace, PlatePlace.plate_id == Plate.id)
        .where(Plate.study_id == study_id, PlatePlace.slot_id.is_(None))
        .group_by(Plate.arm_id, PlatePlace.test_id)
    )
    return {(arm_id, test_id): n for arm_id, test_id, n in rows}


def _parts_there(session: Session, study_id: str) -> dict[str, int]:
    rows = session.execute(select(Plate.arm_id, func.max(Plate.part)).where(Plate.study_id == study_id).group_by(Plate.arm_id))
    return {arm_id: last for arm_id, last in rows}


def _keep(unit: Unit, study: Study, bed: Bed, told: NewPlates, laid: Sequence[_Laid]) -> None:
    """In two statements, since a large study has thousands of places."""
    last = unit.session.scalar(select(func.max(Plate.number)).where(Plate.study_id == study.id)) or 0
    plates, places = [], []
    kept = {"width": bed.width, "depth": bed.depth, "margin": bed.margin, "keep_out": [list(k) for k in bed.keep_out]}
    for number, plate in enumerate(laid, last + 1):
        plate_id = unit.new_id()
        plates.append(
            {
                "id": plate_id, "study_id": study.id, "arm_id": plate.arm_id, "printer_id": told.printer_id, "number": number, "part": plate.part,
                "one_by_one": told.one_by_one, "brim": told.brim, "bed": kept, "layout": plate.layout, "laid_at": unit.now,
            }
        )  # fmt: skip
        places += [
            {"plate_id": plate_id, "position": position, "test_id": test_id, "slot_id": slot_id, "x": x, "y": y, "turned": turned}
            for position, ((test_id, slot_id), x, y, turned) in enumerate(plate.places, 1)
        ]
    unit.session.execute(insert(Plate), plates)
    unit.session.execute(insert(PlatePlace), places)
