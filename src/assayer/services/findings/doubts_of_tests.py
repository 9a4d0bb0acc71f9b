"""What is doubtful about the results of one test: specimens, breaks, batches, rooms and rigs."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.methods.ambient import AMBIENT_APART
from assayer.core.methods.impact import HAMMER_RANGE
from assayer.core.methods.vocabulary import Bound, Orientation
from assayer.core.quantities.words import and_words, counted
from assayer.core.stats.break_places import BreakPlace, commonest_place
from assayer.core.stats.outliers import grubbs
from assayer.core.stats.unlike import unlike_batch
from assayer.services.findings.doubt import Doubt, apart_words, codes_in_words, specimens_of
from assayer.services.findings.doubt_views import DoubtKind
from assayer.services.parts.shapes import shape_of
from assayer.services.rigs.calibrations import reader_of
from assayer.services.studies.evidence_groups import Dot, Evidence
from assayer.store.models import Batch, GcodeFile, Result, Run


@dataclass(frozen=True, slots=True)
class TestedRuns:
    """What is read of the runs of several tests besides their evidence."""

    runs: Mapping[str, Run]
    hammer_shares: Mapping[str, float]
    """By run, the share of the hammer's energy that a blow took."""


def read_runs(session: Session, test_ids: Sequence[str]) -> TestedRuns:
    runs = session.scalars(select(Run).where(Run.test_id.in_(test_ids), Run.retracted_at.is_(None))).all()
    shares = select(Result.run_id, Result.value).where(Result.test_id.in_(test_ids), Result.quantity == "hammer_share", Result.run_id.is_not(None))
    return TestedRuns({r.id: r for r in runs}, {str(run_id): value for run_id, value in session.execute(shares)})


def doubts_of_test(session: Session, evidence: Evidence, tested: TestedRuns, names: Mapping[str, str]) -> Iterator[Doubt]:
    """All doubts about the shown quantity of a test."""
    if not evidence.method.quantity(evidence.quantity).graded:
        yield from _outliers(evidence)
        yield from _batches(session, evidence)
    yield from _bounds(evidence, names)
    yield from _ends(evidence, tested)
    yield from _hammers(evidence, tested)
    yield from _rooms(evidence)
    yield from _break_places(session, evidence, tested)
    yield from _calibrations(session, evidence, tested)


def _outliers(evidence: Evidence) -> Iterator[Doubt]:
    for arm in evidence.arms:
        exact = [d for d in evidence.counted(arm.id) if d.bound == Bound.EXACT]
        hint = grubbs([d.value for d in exact if d.value is not None])
        if hint is not None and hint.stands_out:
            odd = exact[hint.index]
            yield Doubt(
                DoubtKind.OUTLIER, odd.run_id, f"{odd.code} is an outlier (G {hint.g:.2f} > {hint.critical:.2f}); it still counts",
                "look at its readings and its curve: exclude it if something went wrong with it, else test further specimens",
                evidence.test.id, evidence.quantity, (arm.id,), specimens_of([odd]), (arm.id,),
            )  # fmt: skip


def _bounds(evidence: Evidence, names: Mapping[str, str]) -> Iterator[Doubt]:
    """Lower bounds above the mean of an arm that is ranked higher, or above the mean of what broke: the true mean is higher."""
    groups = evidence.groups()
    for arm in evidence.arms:
        if not evidence.bounds(arm.id).at_least:
            continue
        lower = [d for d in evidence.counted(arm.id) if d.bound == Bound.AT_LEAST and d.value is not None]
        highest = max(d.value or 0.0 for d in lower)
        passed = [names[a] for a, g in groups.items() if a != arm.id and groups[arm.id].mean < g.mean < highest]
        exact = [d.value for d in evidence.counted(arm.id) if d.bound == Bound.EXACT and d.value is not None]
        if exact and highest > sum(exact) / len(exact):
            passed.insert(0, "those that broke")
        if passed:
            above = [d for d in lower if d.value == highest]
            bound = f"the lower bound of {codes_in_words([d.code for d in above])} is above the mean of {and_words(passed[:3])}"
            yield Doubt(
                DoubtKind.BOUND, arm.id, f"{bound}: the true mean of {names[arm.id]} is higher than shown",
                "test again so that it breaks where it should: with another clamp or shape", evidence.test.id, evidence.quantity, (arm.id,),
                specimens_of(above), (arm.id,),
            )  # fmt: skip


def _ends(evidence: Evidence, tested: TestedRuns) -> Iterator[Doubt]:
    """Specimens of one arm that ended in ways which say different things of it; ends that make bounds have their own doubt."""
    shape = shape_of(evidence.test)
    labels = {o.name: o for o in evidence.method.outcomes}
    for arm in evidence.arms:
        ends: dict[str, list[Dot]] = defaultdict(list)
        for dot in evidence.dots.get(arm.id, []):
            run = tested.runs[dot.run_id]
            outcome = labels.get(evidence.method.outcome_at(run.outcome, run.outcome_place, shape) or "")
            if dot.state in ("counts", "apart") and outcome is not None and not outcome.bounds:
                ends[outcome.label].append(dot)
        if len(ends) > 1:
            listed = ", ".join(f"{len(dots)} {label}" for label, dots in sorted(ends.items(), key=lambda e: -len(e[1])))
            rare = min(ends.values(), key=len)
            yield Doubt(
                DoubtKind.ENDS, arm.id, f"ended in different ways: {listed}", "look at the breaks; further specimens show which is usual", evidence.test.id,
                evidence.quantity, (arm.id,), specimens_of(rare), (arm.id,),
            )  # fmt: skip


def _hammers(evidence: Evidence, tested: TestedRuns) -> Iterator[Doubt]:
    low, high = HAMMER_RANGE
    for arm in evidence.arms:
        for heavy in (True, False):
            off = [d for d in evidence.counted(arm.id) if (s := tested.hammer_shares.get(d.run_id)) is not None and (s < low if heavy else s > high)]
            if off:
                share = f"less than {100 * low:.0f} %" if heavy else f"more than {100 * high:.0f} %"
                yield Doubt(
                    DoubtKind.HAMMER, f"{arm.id} {'heavy' if heavy else 'light'}", f"{counted(len(off), 'blow')} took {share} of the hammer's energy",
                    f"test further specimens with a {'lighter' if heavy else 'heavier'} hammer", evidence.test.id, evidence.quantity, (arm.id,),
                    specimens_of(off), (arm.id,),
                )  # fmt: skip


def _rooms(evidence: Evidence) -> Iterator[Doubt]:
    measured = [d for own in evidence.dots.values() for d in own if d.state == "counts" and d.ambient is not None]
    if not measured:
        return
    mean = sum(d.ambient or 0.0 for d in measured) / len(measured)
    for arm in evidence.arms:
        apart = [d for d in evidence.counted(arm.id) if d.ambient is not None and abs(d.ambient - mean) > AMBIENT_APART]
        if apart:
            furthest = max(abs((d.ambient or mean) - mean) for d in apart)
            yield Doubt(
                DoubtKind.ROOM, arm.id, f"{codes_in_words([d.code for d in apart])}: the room was up to {furthest:.1f} K from the mean of all",
                "test again in the same room conditions", evidence.test.id, evidence.quantity, (arm.id,), specimens_of(apart), (arm.id,),
            )  # fmt: skip


def _batches(session: Session, evidence: Evidence) -> Iterator[Doubt]:
    several = [a.id for a in evidence.arms if len({d.batch_id for d in evidence.counted(a.id)}) > 1]
    for arm_id in several:
        counting = [d for d in evidence.counted(arm_id) if d.bound == Bound.EXACT and d.value is not None]
        step = max((d.reading_step for d in counting), default=0.0)
        unlike = unlike_batch([d.value or 0.0 for d in counting], [d.batch_id for d in counting], None, len(several), step)
        if unlike is None:
            continue
        own = [d for d in counting if d.batch_id == unlike.batch]
        batch = session.get(Batch, unlike.batch)
        day = "" if batch is None else f" of {batch.printed_at:%-d %B}"
        ratio_scale = evidence.method.quantity(evidence.quantity).ratio_scale
        apart = apart_words(unlike.relative if ratio_scale else None, unlike.difference < 0)
        yield Doubt(
            DoubtKind.BATCH, f"{arm_id} {unlike.batch}", f"the batch{day} ({codes_in_words([d.code for d in own])}) is {apart} the other batches",
            "compare spool, moisture, settings and place on the bed of these prints; print and test another batch", evidence.test.id, evidence.quantity,
            (arm_id,), specimens_of(own), (arm_id,), spool_id=None if batch is None else batch.spool_id,
        )  # fmt: skip


def _break_places(session: Session, evidence: Evidence, tested: TestedRuns) -> Iterator[Doubt]:
    shape = shape_of(evidence.test)
    low = shape.zones.get("parallel", (0.0, 0.5))[0]
    for arm in evidence.arms:
        breaks = [(d, p) for d in evidence.counted(arm.id) if (p := tested.runs[d.run_id].outcome_place) is not None and low <= p <= 1 - low]
        place = commonest_place([(p - low) / (1 - 2 * low) for _, p in breaks])
        if place is None or not place.stands_out:
            continue
        upright = evidence.test.orientation == Orientation.UPRIGHT
        at = low + (1 - 2 * low) * (place.low + place.high) / 2
        there = [d for d, p in breaks if place.low - 1e-9 <= (p - low) / (1 - 2 * low) <= place.high + 1e-9]
        where = "height" if upright else "length"
        remedy = (
            "print further specimens with the fan off at that height, or with longer layers" if upright else "measure the section there and look for a seam"
        )
        layer = _layer_at(session, there[0], at * (shape.dimensions.get("overall") or shape.dimensions.get("length", 0.0))) if upright else ""
        yield Doubt(
            DoubtKind.BREAK_PLACE, arm.id, f"{_share_of_breaks(place)} at {100 * at:.0f} % of the {where} (p {place.p:.2g}){layer}", remedy, evidence.test.id,
            evidence.quantity, (arm.id,), specimens_of(there), (arm.id,),
        )  # fmt: skip


def _share_of_breaks(place: BreakPlace) -> str:
    return f"{place.count} of {place.n} broke within a tenth of the gauge,"


def _layer_at(session: Session, dot: Dot, height: float) -> str:
    """What the file of a print does at a height; empty without a file."""
    found = session.scalar(
        select(GcodeFile.found)
        .join(Batch, Batch.plate_id == GcodeFile.plate_id)
        .where(Batch.id == dot.batch_id, GcodeFile.retracted_at.is_(None))
        .order_by(GcodeFile.added_at.desc())
        .limit(1)
    )
    layers = (found or {}).get("by_layer") or {}
    heights = layers.get("z") or []
    if not heights or not height:
        return ""
    nearest = min(range(len(heights)), key=lambda i: abs(heights[i] - height))
    speed, fan, seconds = (layers[name][nearest] for name in ("speed_mean", "fan", "seconds"))
    told = [f"{speed:.0f} mm/s" if speed is not None else "", f"fan {100 * fan:.0f} %", f"{seconds:.0f} s for the layer"]
    return f": layer {nearest + 1}, {', '.join(t for t in told if t)}"


def _calibrations(session: Session, evidence: Evidence, tested: TestedRuns) -> Iterator[Doubt]:
    """Runs on a rig whose calibration was due before; of the channels that the test reads."""
    overdue: Counter[tuple[str, str, str]] = Counter()
    rigs: dict[tuple[str, str, str], tuple[str, str]] = {}
    for dots in evidence.dots.values():
        for dot in dots:
            run = tested.runs[dot.run_id]
            if dot.state not in ("counts", "apart"):
                continue
            reader = reader_of(session, run.rig_version_id)
            for calibration in reader.overdue(evidence.method.fields(), run.happened_at):
                key = (run.rig_version_id, calibration.channel, f"{calibration.due_at:%-d %B %Y}")
                overdue[key] += 1
                rigs[key] = (reader.version.rig_id, reader.version.rig.name)
    for (version, channel, due), n in overdue.items():
        rig_id, name = rigs[version, channel, due]
        after = counted(n, "specimen was", "specimens were")
        yield Doubt(
            DoubtKind.CALIBRATION, f"{version} {channel}", f"{name}: the calibration of {channel} was due on {due}, and {after} tested after it",
            "calibrate the rig: results follow the calibration that is valid for them", evidence.test.id, rig_id=rig_id,
        )  # fmt: skip
