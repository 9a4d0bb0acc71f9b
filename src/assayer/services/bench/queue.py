"""The bench's queue: what is to be tested, in which order, by whom."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta

from sqlalchemy import func, select

from assayer.core.methods import method as find_method
from assayer.core.methods.vocabulary import Validity
from assayer.core.plan.order import random_order
from assayer.services.bench.reductions import standing
from assayer.services.bench.views import LeaseView, Queue, QueueArm, QueueItem, WaitingTest, WaitingTests
from assayer.services.parts.shapes import shape_of, title_of
from assayer.services.stock.materials import material_view
from assayer.services.unit import Actor, Workspace, find
from assayer.store.counting import count_if
from assayer.store.models import Arm, Lease, Material, Reading, Run, Slot, Specimen, Study, Test, Variant

LEASE = timedelta(minutes=10)


def queue(workspace: Workspace, test_id: str, station: str, blind: bool) -> Queue:
    """All printed specimens of a test in the study's random order, each with how far it is.

    Blind: nothing that tells the material is given out.
    """
    with workspace.read() as session:
        test = find(session, Test, test_id)
        study = find(session, Study, test.study_id)
        rows = session.execute(
            select(Specimen, Run, Arm, Material, Lease)
            .select_from(Slot)
            .join(Specimen, Specimen.slot_id == Slot.id)
            .join(Arm, Arm.id == Slot.arm_id)
            .join(Variant, Variant.id == Arm.variant_id)
            .join(Material, Material.id == Variant.material_id)
            .outerjoin(Run, (Run.specimen_id == Specimen.id) & (Run.test_id == test_id) & Run.retracted_at.is_(None))
            .outerjoin(Lease, Lease.specimen_id == Specimen.id)
            .where(Slot.test_id == test_id)
        ).all()
        by_id = {r.Specimen.id: r for r in rows}
        fields = _open_fields(
            session.scalars(select(Reading).where(Reading.run_id.in_([r.Run.id for r in rows if r.Run is not None and not r.Run.complete]))).all()
        )
        now = workspace.clock()
        items = []
        for specimen_id in random_order(by_id, study.seed):
            specimen, run, arm, material, lease = by_id[specimen_id]
            items.append(
                QueueItem(
                    specimen_id=specimen.id,
                    code=specimen.code,
                    state="waiting" if run is None else "measured" if not run.complete else run.validity,
                    run_id=None if run is None else run.id,
                    fields={} if run is None or run.complete else fields.get(run.id, {}),
                    held_by=lease.station if lease is not None and lease.until > now and lease.station != station else None,
                    arm=None if blind else QueueArm(id=arm.id, mark=arm.mark, material=material_view(material)),
                )
            )
        printed = select(Specimen.id).where(Specimen.slot_id == Slot.id).exists()
        unprinted = session.scalar(select(func.count()).select_from(Slot).where(Slot.test_id == test_id, ~printed)) or 0
        return Queue(test_id=test_id, study_id=study.id, unprinted=unprinted, items=items)


def _open_fields(readings: Iterable[Reading]) -> dict[str, dict[str, list[str]]]:
    by_run: dict[str, list[Reading]] = {}
    for reading in readings:
        by_run.setdefault(reading.run_id, []).append(reading)
    fields: dict[str, dict[str, list[str]]] = {}
    for run_id, own in by_run.items():
        for reading in standing(own):
            fields.setdefault(run_id, {}).setdefault(reading.field, []).append(reading.raw)
    return fields


def waiting_tests(workspace: Workspace) -> WaitingTests:
    """Every test with specimens that are printed and not tested, newest study first, none of those put away; one query however many.

    Specimens are counted, as in the queue of the test: those that were left out are in neither.
    """
    with workspace.read() as session:
        left_out = Run.validity == Validity.LEFT_OUT
        untested = Specimen.id.is_not(None) & Run.id.is_(None)
        underway = Run.complete.is_(False) & ~left_out & (Run.test_id == Slot.test_id)
        # slot by slot and joined once: asked of each slot anew, a test's runs are read as often as it has slots
        slots = (
            select(
                Slot.test_id,
                (func.count(Specimen.id) > 0).label("printed"),
                count_if(Specimen.id.is_not(None) & (Run.id.is_(None) | ~left_out)).label("specimens"),
                count_if(untested).label("untested"),
                count_if(underway).label("underway"),
            )
            .outerjoin(Specimen, Specimen.slot_id == Slot.id)
            .outerjoin(Run, (Run.specimen_id == Specimen.id) & Run.retracted_at.is_(None))
            # from the tests to their slots: a join would begin with all slots there are
            .where(Slot.test_id.in_(select(Test.id).join(Study, Study.id == Test.study_id).where(Study.put_away_at.is_(None))))
            .group_by(Slot.id)
            .subquery()
        )
        rows = session.execute(
            select(
                Test,
                Study.title,
                count_if(~slots.c.printed),
                func.sum(slots.c.specimens),
                func.sum(slots.c.untested),
                func.sum(slots.c.underway),
            )
            .join_from(slots, Test, Test.id == slots.c.test_id)
            .join(Study, Study.id == Test.study_id)
            .group_by(Test.id)
            .order_by(Study.created_at.desc(), Test.position)
        ).all()
        items = []
        for test, title, unprinted, specimens, untested_count, open_count in rows:
            if not (untested_count or open_count or unprinted):
                continue
            method = find_method(test.method)
            items.append(
                WaitingTest(
                    test_id=test.id,
                    study_id=test.study_id,
                    study=title,
                    label=title_of(test),
                    orientation=test.orientation,
                    shape=shape_of(test).label,
                    method=test.method,
                    waiting=untested_count,
                    open=open_count,
                    printed=specimens,
                    unprinted=unprinted,
                    rounds=method.in_rounds,
                )
            )
        return WaitingTests(items=items)


def take_lease(workspace: Workspace, actor: Actor, specimen_id: str, station: str) -> LeaseView:
    """Hold a specimen for a station; tells if another one holds it."""
    with workspace.write(actor) as unit:
        find(unit.session, Specimen, specimen_id)
        lease = unit.session.get(Lease, specimen_id)
        if lease is not None and lease.until > unit.now and lease.station != station:
            return LeaseView(specimen_id=specimen_id, held_by=lease.station)
        # a station holds one specimen at a time
        for old in unit.session.scalars(select(Lease).where(Lease.station == station)):
            unit.session.delete(old)
        if lease is not None:
            unit.session.delete(lease)
        unit.session.add(Lease(specimen_id=specimen_id, station=station, until=unit.now + LEASE))
        return LeaseView(specimen_id=specimen_id, held_by=None)
