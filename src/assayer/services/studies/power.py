"""What a plan can see, and what it takes: power of each test, filament, money, time."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from functools import lru_cache
from math import pi

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.steps import RoundsStep
from assayer.core.stats.power import Design, detectable, needed
from assayer.services.parts.shapes import shape_of, title_of
from assayer.services.rigs.rigs import newest_versions
from assayer.services.rigs.views import ScatterView
from assayer.services.stock.listing import prices_of
from assayer.services.stock.spool_state import states_of
from assayer.services.studies.evidence import arms_of
from assayer.services.studies.plan_views import BatchOption, PowerRow, PowerView, SpoolNeed
from assayer.services.studies.scatter import says_enough, scatter_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, GcodeFile, Material, Plate, Slot, Specimen, Spool, Study, Test, Variant

MOST_SHOWN = 20
MOST_BATCHES = 6
LEAST_BATCH_DF = 4
"""Fewer degrees of freedom between batches say too little of a method's usual ratio."""
RATE = 4.0
"""mm³/s: what a small part is laid with on average, travel and first layers in it."""


def power(workspace: Workspace, study_id: str) -> PowerView:
    """The power of each test of a study, from the scatter that was seen here or a usual one; and what is still to be printed takes."""
    with workspace.read() as session:
        study = find(session, Study, study_id)
        arms = arms_of(session, study_id)
        tests = session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)).all()
        known = {(s.method, str(s.orientation)): s for s in scatter_of(workspace, session, {t.method for t in tests})}
        # all arms are compared where the reference is of another study
        is_own_reference = study.reference_arm_id is None or study.reference_arm_id in {a.id for a in arms}
        comparisons = max(1, len(arms) - is_own_reference)
        places = _places(session)
        rows = [_row(t, arms, known.get((t.method, t.orientation)), (study.batches, comparisons), places[t.method]) for t in tests]
        rate, files = _rate(session, study_id)
        needs = _needs(session, workspace, arms, tests)
        return PowerView(
            study_id=study_id, revision=study.revision, comparisons=comparisons, batches=study.batches, rows=rows, needs=needs, rate=rate, rate_files=files
        )  # fmt: skip


def _rate(session: Session, study_id: str) -> tuple[float, int]:
    """mm³/s of the files that its plates are printed from, and how many they are; a usual one where there is none."""
    found = GcodeFile.found
    rows = session.execute(
        select(found["filament_mm"].as_float(), found["time_s"].as_float(), Material.diameter)
        .join(Plate, Plate.id == GcodeFile.plate_id)
        .join(Arm, Arm.id == Plate.arm_id)
        .join(Variant, Variant.id == Arm.variant_id)
        .join(Material, Material.id == Variant.material_id)
        .where(Plate.study_id == study_id, GcodeFile.retracted_at.is_(None))
    ).all()
    told = [(length * pi / 4 * diameter**2, time) for length, time, diameter in rows if length and time]
    return (sum(v for v, _ in told) / sum(t for _, t in told), len(told)) if told else (RATE, 0)


def _row(test: Test, arms: Sequence[Arm], observed: ScatterView | None, design: tuple[int, int], places: int) -> PowerRow:
    """What a test can detect with the batches and comparisons of `design`."""
    batches, comparisons = design
    method = find_method(test.method)
    days = days_on_rack(method, test)
    observed_cv = observed.cv if observed is not None and says_enough(observed) else None
    cv = observed_cv or method.typical_cv
    volume = shape_of(test).volume
    margin = test.margin_value if test.margin_relative else None
    target = test.target if test.target is not None else margin
    ratio_here = observed is not None and observed.batch_ratio is not None and observed.batch_df >= LEAST_BATCH_DF
    # to one digit: a plan does not know it better, and plans of alike tests share their curves
    ratio = round(observed.batch_ratio, 1) if ratio_here and observed is not None and observed.batch_ratio is not None else method.typical_batch_ratio
    return PowerRow(
        test_id=test.id,
        label=title_of(test),
        orientation=test.orientation,
        replicates=test.replicates,
        cv=cv,
        scatter_specimens=observed.specimens if observed_cv and observed is not None else 0,
        margin=margin,
        target=target,
        target_set=test.target is not None,
        needed=None if target is None else _needed(cv, target, batches, ratio, comparisons),
        by_batches=[] if target is None else [BatchOption(batches=b, needed=_needed(cv, target, b, ratio, comparisons)) for b in range(1, MOST_BATCHES + 1)],
        detectable=[None if share is None else cv * share for share in _detectable(batches, ratio, comparisons)],
        batch_ratio=ratio,
        batch_df=observed.batch_df if ratio_here and observed is not None else 0,
        minutes=method.minutes,
        volume_each=volume,
        places=places if days else None,
        days_each=days,
        mass_each=[None if a.variant.material.density is None else volume * a.variant.material.density for a in arms],
    )


def _places(session: Session) -> Counter[str]:
    """Places of all racks, by the method that they serve."""
    found: Counter[str] = Counter()
    for version in newest_versions(session):
        for name in version.rig.methods:
            found[name] += version.places
    return found


def days_on_rack(method: Method, test: Test) -> float:
    """How long a specimen stays on its place until the last reading that is due; 0 where it stays on none."""
    protocol = method.protocol.read(test.protocol, method.label).as_dict()
    due = [protocol.get(step.due) for step in method.steps if isinstance(step, RoundsStep)]
    return float(sum(max(times) for times in due if isinstance(times, list) and times)) / 86400


_needed = lru_cache(maxsize=512)(needed)
"""A plan is looked at again and again while it is made."""


@lru_cache(maxsize=64)
def _detectable(batches: int, ratio: float, comparisons: int) -> tuple[float | None, ...]:
    """In standard deviations within a batch, for 2 of each and more; None where there are fewer specimens than batches."""
    counts = range(2, MOST_SHOWN + 1)
    return tuple(detectable(1.0, Design(n, batches, ratio, comparisons)) if n >= batches else None for n in counts)


def _needs(session: Session, workspace: Workspace, arms: Sequence[Arm], tests: Sequence[Test]) -> list[SpoolNeed]:
    """Of what is not printed yet; beside it what is left on the arm's own spool, or on all of its material that are at hand."""
    volumes = {t.id: shape_of(t).volume for t in tests}
    printed = select(Specimen.id).where(Specimen.slot_id == Slot.id).exists()
    open_volume: dict[str, float] = {a.id: 0.0 for a in arms}
    for arm_id, test_id in session.execute(select(Slot.arm_id, Slot.test_id).where(Slot.arm_id.in_(list(open_volume)), ~printed)):
        open_volume[arm_id] += volumes[test_id]
    materials = {a.variant.material_id for a in arms}
    spools = session.scalars(select(Spool).where(Spool.material_id.in_(materials), Spool.gone_at.is_(None))).all()
    states = states_of(session, spools, workspace.clock(), in_full=False)
    found = []
    for arm in arms:
        m = arm.variant.material
        own = [s for s in spools if (s.id == arm.spool_id if arm.spool_id else s.material_id == m.id)]
        left = [b.left for s in own if (b := states[s.id].balance) is not None]
        per_cm3 = prices_of(m).per_cm3
        volume = open_volume[arm.id]
        found.append(
            SpoolNeed(
                arm_id=arm.id,
                mark=arm.mark,
                volume=volume,
                mass=None if m.density is None else volume * m.density,
                left=sum(left) if left else None,
                price=None if per_cm3 is None else per_cm3 * volume,
            )
        )
    return found
