"""A new study with its whole plan. Making it plans only: nothing is printed and nothing is booked by it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from contextlib import suppress
from typing import TYPE_CHECKING

from sqlalchemy import insert, select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.plan.fairness import settings_studied
from assayer.core.plan.study_plan import StudiedFactor
from assayer.core.settings.declared import chip, setting
from assayer.core.settings.sheet import Set, Sheet, Source, check_sheet
from assayer.core.shapes.printed import stand
from assayer.services.parts.shapes import shape_named
from assayer.services.rigs.margins import margin_of
from assayer.services.stock.materials import free_mark
from assayer.services.studies.listing import study_view
from assayer.services.studies.views import StudyView
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Arm, Material, Printer, Rig, SettingsSheet, Slot, Spool, Study, Test, Variant

if TYPE_CHECKING:
    from assayer.services.studies.requests import NewArm, NewStudy, NewTest


def create_study(workspace: Workspace, actor: Actor, new: NewStudy) -> tuple[StudyView, bool]:
    """Create a study: arms, tests, and a slot for each planned replicate.

    The first arm becomes the reference. The same id again changes nothing (second value False).
    """
    look_at_standing(new.tests)
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Study, new.id)
        if there is not None:
            unit.refuse_other("study", kept := study_view(unit.session, there), alike=there.title == new.title)
            return kept, False
        study = Study(
            id=new.id,
            title=new.title,
            question=new.question,
            studied_factor=new.studied_factor,
            studied_settings=_studied(new),
            each_at_best=new.each_at_best,
            crosses_materials=new.crosses_materials,
            seed=seed_of(new.id),
            created_at=unit.now,
            zone=actor.zone,
            reference_arm_id=new.arms[0].id,
            revision=1,
        )
        unit.session.add(study)
        unit.session.flush()
        arms = add_arms(unit, study, new.arms, sheet_called(unit, new.settings), [])
        tests = [plan_test(unit.session, new.id, spec, position) for position, spec in enumerate(new.tests)]
        unit.session.add_all(tests)
        unit.session.flush()
        add_slots(unit, [(arm.id, test.id, number) for arm in arms for test in tests for number in range(1, test.replicates + 1)])
        unit.log("study", study.id, "created", after={"title": study.title, "arms": len(arms), "tests": len(tests)})
        return study_view(unit.session, study), True


def _studied(new: NewStudy) -> list[str]:
    """Settings that are studied: those named, or all in which arms were told to differ."""
    named = new.studied_settings or (dict.fromkeys(n for a in new.arms for n in a.settings) if new.studied_factor is StudiedFactor.SETTING else [])
    for name in settings_studied(list(named)):
        if setting(name) is None:
            raise EntryError(f"'{name}' is no setting", "studied_settings")
    return list(named)


def seed_of(study_id: str) -> int:
    """The seed of a study's random orders, which follows from its id."""
    return int(study_id.replace("-", ""), 16) % 2**31


def sheet_called(unit: Unit, name: str) -> SettingsSheet:
    """The plain sheet of this name: found again, or made."""
    plain = [s for s in unit.session.scalars(select(SettingsSheet).where(SettingsSheet.name == name, SettingsSheet.parent_id.is_(None))) if not s.values]
    if plain:
        return plain[0]
    sheet = SettingsSheet(id=unit.new_id(), name=name, values={}, parent_id=None, created_at=unit.now)
    unit.session.add(sheet)
    unit.session.flush()
    return sheet


def variant_of(session: Session, unit: Unit, material_id: str, sheet_id: str, treatment: str) -> Variant:
    """The variant of a material, a sheet and a treatment: it lives across studies, so it is found again."""
    found = session.scalar(select(Variant).where(Variant.material_id == material_id, Variant.sheet_id == sheet_id, Variant.treatment == treatment))
    if found is None:
        found = Variant(id=unit.new_id(), material_id=material_id, sheet_id=sheet_id, treatment=treatment)
        session.add(found)
    return found


def add_slots(unit: Unit, planned: Sequence[tuple[str, str, int]]) -> None:
    """A slot for each replicate, by arm, test and number: in one statement, since a large study plans thousands."""
    if planned:
        unit.session.execute(insert(Slot), [{"id": unit.new_id(), "arm_id": arm, "test_id": test, "number": number} for arm, test, number in planned])


NARROWED: dict[StudiedFactor, str] = {StudiedFactor.LOT: "spool_id", StudiedFactor.PRINTER: "printer_id", StudiedFactor.RIG: "rig_id"}
"""Where not the variant is studied, what an arm stands for beside it."""
NARROWED_WORDS = {"spool_id": "spool", "printer_id": "printer", "rig_id": "rig"}


def _what(material_id: str, treatment: str, sheet_id: str, of: Arm | NewArm, narrowed: str | None) -> tuple[str | None, ...]:
    """What tells an arm from the others of its study."""
    return material_id, treatment, sheet_id, None if narrowed is None else getattr(of, narrowed)


def add_arms(unit: Unit, study: Study, specs: Sequence[NewArm], sheet: SettingsSheet, there: Sequence[Arm]) -> list[Arm]:
    """Arms of a study beside those that are there.

    Raises
    ------
    EntryError
        If an arm is there already, or its spool holds another material.
    """
    taken = {arm.mark for arm in there}
    arms = []
    narrowed = NARROWED.get(StudiedFactor(study.studied_factor))
    seen = {_what(arm.variant.material_id, arm.variant.treatment, arm.variant.sheet_id, arm, narrowed) for arm in there}
    for position, spec in enumerate(specs):
        own = arm_sheet(unit, spec, sheet, position)
        key = _what(spec.material_id, spec.treatment, own.id, spec, narrowed)
        if key in seen:
            told = "material, treatment and settings" if narrowed is None else f"material, treatment, settings and {NARROWED_WORDS[narrowed]}"
            raise EntryError(f"arm {position + 1} is the same {told} as an earlier one", "arms", row=position + 1)
        if narrowed is not None and getattr(spec, narrowed) is None:
            raise EntryError(f"arm {position + 1}: say which {NARROWED_WORDS[narrowed]} it stands for", "arms", row=position + 1)
        seen.add(key)
        material = find(unit.session, Material, spec.material_id)
        if spec.spool_id is not None:
            spool = find(unit.session, Spool, spec.spool_id)
            if spool.material_id != spec.material_id:
                raise EntryError(f"spool {spool.code} holds another material than arm {position + 1}", "arms", row=position + 1)
        mark = free_mark(material.mark, taken, material.maker, material.product)
        taken.add(mark)
        variant = variant_of(unit.session, unit, material.id, own.id, spec.treatment)
        arm = Arm(id=spec.id, study_id=study.id, variant=variant, mark=mark, position=len(there) + position, spool_id=spec.spool_id)
        arm.printer_id = find(unit.session, Printer, spec.printer_id).id if spec.printer_id is not None else None
        arm.rig_id = find(unit.session, Rig, spec.rig_id).id if spec.rig_id is not None else None
        arms.append(arm)
    unit.session.add_all(arms)
    return arms


def arm_sheet(unit: Unit, spec: NewArm, sheet: SettingsSheet, position: int) -> SettingsSheet:
    """The sheet of an arm: its own or that of the study, or a child with what it changes; an equal child is found again."""
    base = find(unit.session, SettingsSheet, spec.sheet_id) if spec.sheet_id is not None else sheet
    if not spec.settings:
        return base
    told = Sheet({name: Set(value) for name, value in spec.settings.items()})
    try:
        check_sheet(told)
    except EntryError as error:
        raise EntryError(f"arm {position + 1}: {error}", "arms", row=position + 1) from None
    values = {**base.values, **{name: {"value": value, "source": str(Source.ENTERED)} for name, value in spec.settings.items()}}
    name = f"{base.name}: {', '.join(chip(n, v) for n, v in spec.settings.items())}"[:120]
    # a name that was cut may stand for several
    for child in unit.session.scalars(select(SettingsSheet).where(SettingsSheet.parent_id == base.id, SettingsSheet.name == name)):
        if child.values == values and child.extras == base.extras:
            return child
    child = SettingsSheet(id=unit.new_id(), name=name, values=values, parent_id=base.id, created_at=unit.now)
    child.extras, child.prepared_with = list(base.extras or []), base.prepared_with or ""
    unit.session.add(child)
    unit.session.flush()
    return child


def look_at_standing(tests: Iterable[NewTest]) -> None:
    """How the shapes of tests stand, kept for when it is asked: worked out before anybody waits for the lock. Says nothing of what is wrong."""
    for spec in tests:
        with suppress(EntryError):
            method = find_method(spec.method)
            shape = next((s for s in method.shapes if spec.shape in (None, s.name)), None)
            if shape is not None:
                stand(shape, spec.orientation)


def plan_test(session: Session, study_id: str, spec: NewTest, position: int) -> Test:
    """A test as planned, at its place in the study.

    Raises
    ------
    EntryError
        If the method is not done so, or cannot be set so.
    """
    method = find_method(spec.method)
    if spec.orientation not in method.orientations:
        raise EntryError(f"{method.label} is done {' or '.join(method.orientations)}, not {spec.orientation}", "tests", row=position + 1)
    if spec.shape is None and not method.shapes:
        raise EntryError(f"{method.label} is done on a part of your own: say which", "tests", row=position + 1)
    shape = shape_named(session, method, spec.shape) if spec.shape is not None else method.shapes[0]
    if not stand(shape, spec.orientation).stands:
        raise EntryError(f"the {shape.label} cannot be printed {spec.orientation}: it would fall over", "tests", row=position + 1)
    # read once, so that what cannot be is refused while somebody plans it
    protocol = method.protocol.read(spec.protocol, method.label)
    own = margin_of(session, method, method.main_of(protocol))
    return Test(
        id=spec.id,
        study_id=study_id,
        method=spec.method,
        procedure_version=method.procedure_of(protocol),
        orientation=spec.orientation,
        shape=shape.name,
        protocol=protocol.as_dict() if spec.protocol else {},
        replicates=method.count if spec.replicates is None else spec.replicates,
        spares=spec.spares,
        margin_value=own.value if spec.margin is None else spec.margin,
        margin_relative=own.relative if spec.margin is None else spec.margin_relative,
        position=position,
    )
