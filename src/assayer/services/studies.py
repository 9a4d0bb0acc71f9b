"""Studies: the list, a new one with its plan, and the board."""

from __future__ import annotations

from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.shapes.volume import solid_volume
from assayer.services.columns import write_column
from assayer.services.commands import NewStudy
from assayer.services.materials import free_mark, material_dict
from assayer.services.rigs import free_code
from assayer.services.spools import debit
from assayer.services.workspace import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import Arm, Batch, ColumnSummary, Material, Run, SettingsSheet, Slot, Specimen, Spool, Study, Test, Variant


def list_studies(workspace: Workspace, limit: int, offset: int) -> dict[str, Any]:
    """Studies, newest first, with how far each has come."""
    with workspace.read() as session:
        total = session.scalar(select(func.count()).select_from(Study)) or 0
        studies = session.scalars(select(Study).order_by(Study.created_at.desc(), Study.id).limit(limit).offset(offset)).all()
        ids = [s.id for s in studies]
        slots = select(Arm.study_id, func.count()).join(Slot, Slot.arm_id == Arm.id).where(Arm.study_id.in_(ids)).group_by(Arm.study_id)
        pulled = (
            select(Test.study_id, func.count())
            .join(Run, Run.test_id == Test.id)
            .where(Test.study_id.in_(ids), Run.retracted_at.is_(None), Run.complete)
            .group_by(Test.study_id)
        )
        planned = {study_id: count for study_id, count in session.execute(slots)}
        tested = {study_id: count for study_id, count in session.execute(pulled)}
        marks: dict[str, list[dict[str, Any]]] = {}
        for arm in session.scalars(select(Arm).where(Arm.study_id.in_(ids)).order_by(Arm.position)):
            marks.setdefault(arm.study_id, []).append({"mark": arm.mark, **_swatch(arm)})
        items = [
            {
                "id": s.id,
                "title": s.title,
                "question": s.question,
                "studied_factor": s.studied_factor,
                "created_at": s.created_at,
                "planned": planned.get(s.id, 0),
                "tested": tested.get(s.id, 0),
                "swatches": marks.get(s.id, []),
            }
            for s in studies
        ]
        return {"items": items, "total": total, "limit": limit, "offset": offset}


def _swatch(arm: Arm) -> dict[str, Any]:
    material = arm.variant.material
    return {"hex": material.hex, "filled": material.filler is not None}


def arm_dict(arm: Arm) -> dict[str, Any]:
    return {
        "id": arm.id,
        "mark": arm.mark,
        "treatment": arm.variant.treatment,
        "material": material_dict(arm.variant.material),
        "settings": arm.variant.sheet.name,
    }


def get_study(workspace: Workspace, study_id: str) -> dict[str, Any]:
    """One study with its arms and tests."""
    with workspace.read() as session:
        return study_dict(session, find(session, Study, study_id))


def study_dict(session: Session, study: Study) -> dict[str, Any]:
    arms = session.scalars(select(Arm).where(Arm.study_id == study.id).order_by(Arm.position))
    tests = session.scalars(select(Test).where(Test.study_id == study.id).order_by(Test.position))
    return {
        "id": study.id,
        "title": study.title,
        "question": study.question,
        "studied_factor": study.studied_factor,
        "reference_arm_id": study.reference_arm_id,
        "revision": study.revision,
        "created_at": study.created_at,
        "arms": [arm_dict(a) for a in arms],
        "tests": [test_dict(t) for t in tests],
    }


def test_dict(test: Test) -> dict[str, Any]:
    method = find_method(test.method)
    shape = method.shape(test.shape)
    return {
        "id": test.id,
        "study_id": test.study_id,
        "method": test.method,
        "label": method.label_for(test.orientation),
        "after": method.after,
        "orientation": test.orientation,
        "shape": {
            "name": shape.name,
            "label": shape.label,
            "width": shape.width,
            "thickness": shape.thickness,
            "gauge_length": shape.gauge_length,
            "overall": shape.overall,
            "parallel": shape.parallel,
            "end_width": shape.end_width,
        },
        "replicates": test.replicates,
        "margin": test.margin_value,
        "margin_relative": test.margin_relative,
        "fractures": [{"name": name, "label": label, "bound": str(bound)} for name, (label, bound) in method.fractures.items()],
        "quantities": [{"name": q.name, "label": q.label, "unit": q.unit, "good_side": str(q.good_side)} for q in method.quantities],
        "main": method.main,
    }


def board(workspace: Workspace, study_id: str) -> tuple[str, int]:
    """The board as JSON text and its revision: the cached columns, put together without being parsed."""
    with workspace.read() as session:
        # one snapshot: the revision and the columns belong together
        study = find(session, Study, study_id)
        rows = session.execute(
            select(ColumnSummary.payload).join(Test, Test.id == ColumnSummary.test_id).where(ColumnSummary.study_id == study_id).order_by(Test.position)
        ).scalars()
        return f'{{"study_id":"{study_id}","revision":{study.revision},"columns":[{",".join(rows)}]}}', study.revision


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
            write_column(unit.session, test, study.revision)
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


def set_reference(workspace: Workspace, actor: Actor, study_id: str, arm_id: str, revision: int | None) -> dict[str, Any]:
    """Make another arm the reference; every verdict of the study is made anew."""
    with workspace.write(actor) as unit:
        study = find(unit.session, Study, study_id)
        expect_revision(revision, study.revision, "the study", {"revision": study.revision})
        arm = unit.session.get(Arm, arm_id)
        if arm is None or arm.study_id != study_id:
            raise EntryError("the reference must be an arm of this study", "reference_arm_id")
        before = study.reference_arm_id
        if before != arm_id:
            study.reference_arm_id = arm_id
            unit.session.flush()
            unit.session.refresh(study)
            new_revision = unit.touch(study_id)
            for test in unit.session.scalars(select(Test).where(Test.study_id == study_id)).all():
                write_column(unit.session, test, new_revision)
            unit.session.refresh(study)
            unit.log("study", study_id, "reference changed", {"reference_arm_id": before}, {"reference_arm_id": arm_id})
        return study_dict(unit.session, study)
