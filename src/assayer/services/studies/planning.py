"""A new study with its whole plan."""

from __future__ import annotations

from typing import Any

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.shapes.volume import solid_volume
from assayer.services.codes import free_code
from assayer.services.stock.materials import free_mark
from assayer.services.stock.spools import debit
from assayer.services.studies.evidence import write_evidence
from assayer.services.studies.listing import study_dict
from assayer.services.studies.requests import NewStudy
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Arm, Batch, Material, SettingsSheet, Slot, Specimen, Spool, Study, Test, Variant


def create_study(workspace: Workspace, actor: Actor, new: NewStudy) -> tuple[dict[str, Any], bool]:
    """Create a study with its whole plan: arms, tests, slots, and a printed specimen with its code for each slot.

    The first arm becomes the reference. Printing has no area of its own yet, so one batch an arm and
    orientation is taken as printed now. The same id again changes nothing (second value False).
    """
    with workspace.write(actor) as unit:
        there = unit.session.get(Study, new.id)
        if there is not None:
            if there.title != new.title:
                raise ConflictError("another study already has this id")
            return study_dict(unit.session, there), False
        study = Study(
            id=new.id,
            title=new.title,
            question=new.question,
            studied_factor=new.studied_factor,
            seed=int(new.id.replace("-", ""), 16) % 2**31,
            created_at=unit.now,
            zone=actor.zone,
            reference_arm_id=new.arms[0].id,
            revision=1,
        )
        unit.session.add(study)
        unit.session.flush()
        sheet = SettingsSheet(id=unit.new_id(), name=new.settings, values={}, parent_id=None, created_at=unit.now)
        unit.session.add(sheet)
        unit.session.flush()
        arms = _add_arms(unit, new, sheet)
        tests = _add_tests(unit, new)
        _add_specimens(unit, arms, tests, _spools_of(unit, new))
        unit.session.flush()
        for test in tests:
            write_evidence(unit.session, test, study.revision)
        unit.log("study", study.id, "created", after={"title": study.title, "arms": len(arms), "tests": len(tests)})
        return study_dict(unit.session, study), True


def _add_arms(unit: Unit, new: NewStudy, sheet: SettingsSheet) -> list[Arm]:
    taken: set[str] = set()
    arms = []
    seen: set[tuple[str, str]] = set()
    for position, spec in enumerate(new.arms):
        key = (spec.material_id, spec.treatment)
        if key in seen:
            raise EntryError(f"arm {position + 1} is the same material and treatment as an earlier one", "arms", row=position + 1)
        seen.add(key)
        material = find(unit.session, Material, spec.material_id)
        mark = free_mark(material.mark, taken, material.maker, material.product)
        taken.add(mark)
        variant = Variant(id=unit.new_id(), material_id=material.id, sheet_id=sheet.id, treatment=spec.treatment)
        arms.append(Arm(id=spec.id, study_id=new.id, variant=variant, mark=mark, position=position))
    unit.session.add_all(arms)
    unit.session.flush()
    return arms


def _add_tests(unit: Unit, new: NewStudy) -> list[Test]:
    tests = []
    for position, spec in enumerate(new.tests):
        method = find_method(spec.method)
        method.shape(spec.shape)
        tests.append(
            Test(
                id=spec.id,
                study_id=new.id,
                method=spec.method,
                procedure_version=method.procedure_version,
                orientation=spec.orientation,
                shape=spec.shape,
                replicates=spec.replicates,
                spares=0,
                margin_value=spec.margin,
                margin_relative=spec.margin_relative,
                position=position,
            )
        )
    unit.session.add_all(tests)
    unit.session.flush()
    return tests


def _spools_of(unit: Unit, new: NewStudy) -> dict[str, Spool]:
    """The spool each arm is printed from, where one was named."""
    spools = {}
    for position, spec in enumerate(new.arms, 1):
        if spec.spool_id is None:
            continue
        spool = find(unit.session, Spool, spec.spool_id)
        if spool.material_id != spec.material_id:
            raise EntryError(f"spool {spool.code} holds another material than arm {position}", "arms", row=position)
        spools[spec.id] = spool
    return spools


def _add_specimens(unit: Unit, arms: list[Arm], tests: list[Test], spools: dict[str, Spool]) -> None:
    for arm in arms:
        for test in tests:
            spool = spools.get(arm.id)
            batch = Batch(id=unit.new_id(), variant_id=arm.variant.id, printed_at=unit.now, zone=unit.actor.zone, spool_id=spool.id if spool else None)
            unit.session.add(batch)
            unit.session.flush()
            density = arm.variant.material.density
            if spool is not None and density is not None:
                shape = find_method(test.method).shape(test.shape)
                mass = test.replicates * solid_volume(shape) * density
                debit(unit, spool, unit.new_id(), mass, unit.now, f"{test.replicates} × {shape.label}, {test.orientation}", batch.id)
            for number in range(1, test.replicates + 1):
                slot = Slot(id=unit.new_id(), arm_id=arm.id, test_id=test.id, number=number)
                unit.session.add(slot)
                unit.session.flush()
                unit.session.add(
                    Specimen(
                        id=unit.new_id(),
                        code=free_code(unit),
                        batch_id=batch.id,
                        position=number,
                        shape=test.shape,
                        orientation=test.orientation,
                        slot_id=slot.id,
                    )
                )
                unit.session.flush()
