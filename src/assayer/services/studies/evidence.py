"""The column of a test on the board: groups, verdicts and dots, cached as it is sent.

It is written in the transaction that changes it, so the board only ever reads.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.stats.groups import GroupSummary, Interval, summarise
from assayer.core.stats.ratios import RatioOfMeans, ratio_of_means
from assayer.core.stats.verdicts import Decision, GroupBounds, Margin, decide
from assayer.services.unit import Unit, find
from assayer.store.models import Arm, EvidenceCache, Result, Rig, RigVersion, Run, Slot, Specimen, Study, Test


@dataclass(frozen=True, slots=True)
class Dot:
    """One tested specimen of a column.

    `state`: "counts", "left_out", or "apart" where its procedure or rig differs from the column's.
    """

    arm_id: str
    run_id: str
    specimen_id: str
    code: str
    value: float | None
    bound: str
    state: str
    reason: str | None
    key: tuple[str, str]

    def as_dict(self) -> dict[str, Any]:
        return {
            "run_id": self.run_id,
            "specimen_id": self.specimen_id,
            "code": self.code,
            "value": self.value,
            "bound": self.bound,
            "state": self.state,
            "reason": self.reason,
        }


@dataclass(slots=True)
class Column:
    """All there is to know of one test: per arm its plan, its dots and its group."""

    test: Test
    method: Method
    quantity: str
    arms: list[Arm]
    planned: Counter[str]
    measured: Counter[str]
    batches: dict[str, int]
    dots: dict[str, list[Dot]]
    rig_names: dict[str, str]
    key: tuple[str, str] | None

    def counted(self, arm_id: str) -> list[Dot]:
        return [d for d in self.dots.get(arm_id, []) if d.state == "counts" and d.value is not None]

    def groups(self, reading_step: float = 0.0) -> dict[str, GroupSummary]:
        """Summaries by arm, of the arms with at least one value that counts."""
        spec = self.method.quantity(self.quantity)
        found: dict[str, GroupSummary] = {}
        for arm in self.arms:
            values = [d.value for d in self.counted(arm.id) if d.value is not None]
            if values:
                found[arm.id] = summarise(values, reading_step, spec.ratio_scale)
        return found

    def bounds(self, arm_id: str) -> GroupBounds:
        counts = Counter(d.bound for d in self.counted(arm_id))
        return GroupBounds(counts["at_least"], counts["at_most"])

    def decisions(self, groups: Mapping[str, GroupSummary], reference_id: str | None) -> dict[str, Decision]:
        """The verdict on each arm against the reference; empty without one."""
        reference = groups.get(reference_id or "")
        if reference is None or reference_id is None:
            return {}
        others = {a: g for a, g in groups.items() if a != reference_id}
        margin = Margin(self.test.margin_value, self.test.margin_relative)
        decided = decide(
            reference,
            others,
            margin if self.quantity == self.method.main else self.method.quantity(self.quantity).margin,
            self.method.quantity(self.quantity).good_side,
            {a: self.bounds(a) for a in others},
            self.bounds(reference_id),
        )
        return {d.group: d for d in decided}


def load_evidence(session: Session, test: Test, quantity: str | None = None) -> Column:
    """Read one test with all its runs; `quantity` defaults to the method's main one."""
    method = find_method(test.method)
    wanted = quantity or method.main
    arms = list(session.scalars(select(Arm).where(Arm.study_id == test.study_id).order_by(Arm.position)))
    planned: Counter[str] = Counter(session.scalars(select(Slot.arm_id).where(Slot.test_id == test.id)))
    rows = session.execute(
        select(Slot.arm_id, Specimen.id, Specimen.code, Specimen.batch_id, Run, Result.value, Result.bound, RigVersion.rig_id)
        .select_from(Slot)
        .join(Specimen, Specimen.slot_id == Slot.id)
        .join(Run, (Run.specimen_id == Specimen.id) & (Run.test_id == test.id) & Run.retracted_at.is_(None))
        .join(RigVersion, RigVersion.id == Run.rig_version_id)
        .outerjoin(Result, (Result.run_id == Run.id) & (Result.quantity == wanted))
        .where(Slot.test_id == test.id)
        .order_by(Run.happened_at, Specimen.code)
    ).all()
    complete = [r for r in rows if r.Run.complete]
    keys = Counter((r.Run.procedure_version, r.Run.rig_version_id) for r in complete)
    # what most specimens were tested with is the column; anything else stands apart from it
    key = keys.most_common(1)[0][0] if keys else None
    dots: dict[str, list[Dot]] = {}
    batches: dict[str, set[str]] = {}
    for arm_id, specimen_id, code, batch_id, run, value, bound, _ in complete:
        own_key = (run.procedure_version, run.rig_version_id)
        state = "left_out" if run.validity == "left_out" else "counts" if own_key == key else "apart"
        batches.setdefault(arm_id, set()).add(batch_id)
        dots.setdefault(arm_id, []).append(Dot(arm_id, run.id, specimen_id, code, value, bound or "exact", state, run.validity_reason, own_key))
    named = select(RigVersion.id, Rig.name).join(Rig).where(RigVersion.id.in_({k[1] for k in keys}))
    names = {version: name for version, name in session.execute(named)}
    measured = Counter(r.arm_id for r in rows if not r.Run.complete)
    return Column(test, method, wanted, arms, planned, measured, {a: len(b) for a, b in batches.items()}, dots, names, key)


def refresh_evidence(unit: Unit, test_id: str) -> int:
    """Compute the column anew, keep it, and raise the study's revision; returns the revision."""
    unit.session.flush()
    test = find(unit.session, Test, test_id)
    revision = unit.touch(test.study_id)
    write_evidence(unit.session, test, revision)
    # the ratio upright to flat belongs to the upright column of the same method and shape
    for sibling in _siblings(unit.session, test):
        write_evidence(unit.session, sibling, revision)
    return revision


def write_evidence(session: Session, test: Test, revision: int) -> None:
    """Compute one column and put it into the cache."""
    study = find(session, Study, test.study_id)
    column = load_evidence(session, test)
    ratios = _write_layer_ratios(session, column)
    payload = json.dumps(_rounded(_payload(column, study, ratios, revision)), separators=(",", ":"))
    session.execute(delete(EvidenceCache).where(EvidenceCache.test_id == test.id))
    session.add(EvidenceCache(test_id=test.id, study_id=test.study_id, revision=revision, payload=payload))
    session.flush()


def _rounded(value: Any) -> Any:
    """Floats to 8 digits, more than any rig has: a large board is a third smaller to send and to read."""
    if isinstance(value, float):
        return float(f"{value:.8g}")
    if isinstance(value, dict):
        return {k: _rounded(v) for k, v in value.items()}
    return [_rounded(v) for v in value] if isinstance(value, list) else value


def _siblings(session: Session, test: Test) -> list[Test]:
    if test.orientation != "flat":
        return []
    return list(
        session.scalars(select(Test).where(Test.study_id == test.study_id, Test.method == test.method, Test.shape == test.shape, Test.orientation == "upright"))
    )


def _write_layer_ratios(session: Session, column: Column) -> dict[str, RatioOfMeans]:
    """The layer ratio of each arm, where the same shape was pulled flat on the same rig; subject: the arm."""
    session.execute(delete(Result).where(Result.test_id == column.test.id, Result.subject_kind == "arm"))
    test = column.test
    if test.orientation != "upright":
        return {}
    flat = session.scalar(select(Test).where(Test.study_id == test.study_id, Test.method == test.method, Test.shape == test.shape, Test.orientation == "flat"))
    if flat is None:
        return {}
    flat_column = load_evidence(session, flat)
    if flat_column.key != column.key or column.key is None:
        return {}
    upright_groups, flat_groups = column.groups(), flat_column.groups()
    ratios: dict[str, RatioOfMeans] = {}
    for arm_id, group in upright_groups.items():
        if arm_id not in flat_groups:
            continue
        ratio = ratio_of_means(group, flat_groups[arm_id])
        ratios[arm_id] = ratio
        session.add(
            Result(
                subject_kind="arm",
                subject_id=arm_id,
                test_id=test.id,
                run_id=None,
                quantity="layer_ratio",
                value=ratio.ratio,
                unit="1",
                bound=_ratio_bound(column.bounds(arm_id), flat_column.bounds(arm_id)),
                warnings=[],
                reduction_version=column.method.reduction_version,
                log_se=ratio.log_se,
                df=ratio.df,
            )
        )
    return ratios


def _ratio_bound(upper: GroupBounds, lower: GroupBounds) -> str:
    """A bound above the line makes the ratio at least, one below it at most; both: face value."""
    if upper.at_least and not lower.at_least:
        return "at_least"
    if lower.at_least and not upper.at_least:
        return "at_most"
    return "exact"


def interval(value: Interval | None) -> list[float] | None:
    return None if value is None else [value.low, value.high]


def decision_dict(decision: Decision | None) -> dict[str, Any] | None:
    if decision is None:
        return None
    return {
        "verdict": str(decision.verdict),
        "difference": decision.difference,
        "ci95": interval(decision.ci95),
        "ci90": interval(decision.ci90),
        "margin": decision.margin,
        "more_specimens": decision.more_specimens,
        "notes": decision.notes,
    }


def group_dict(group: GroupSummary | None) -> dict[str, Any] | None:
    if group is None:
        return None
    return {
        "n": group.n,
        "mean": group.mean,
        "sd": group.sd,
        "cv": group.cv,
        "ci95": interval(group.ci95),
        "median": group.median,
        "minimum": group.minimum,
        "maximum": group.maximum,
    }


def apart_notes(column: Column, dots: list[Dot]) -> list[str]:
    """Which key differs for the specimens that stand apart."""
    notes = []
    for key in dict.fromkeys(d.key for d in dots if d.state == "apart"):
        count = sum(d.key == key for d in dots)
        assert column.key is not None
        differs = "procedure" if key[0] != column.key[0] else "rig"
        notes.append(f"{count} tested with another {differs} ({column.rig_names.get(key[1], '')}): shown apart, not averaged")
    return notes


def _payload(column: Column, study: Study, ratios: Mapping[str, RatioOfMeans], revision: int) -> dict[str, Any]:
    groups = column.groups()
    decisions = column.decisions(groups, study.reference_arm_id)
    spec = column.method.quantity(column.quantity)
    reference = groups.get(study.reference_arm_id or "")
    margin = Margin(column.test.margin_value, column.test.margin_relative).absolute(reference) if reference else None
    cells = []
    for arm in column.arms:
        dots = column.dots.get(arm.id, [])
        ratio = ratios.get(arm.id)
        cells.append(
            {
                "arm_id": arm.id,
                "planned": column.planned[arm.id],
                "measured": column.measured[arm.id],
                "tested": len(dots),
                "batches": column.batches.get(arm.id, 0),
                "dots": [d.as_dict() for d in dots],
                "group": group_dict(groups.get(arm.id)),
                "decision": decision_dict(decisions.get(arm.id)),
                "layer_ratio": None if ratio is None else {"ratio": ratio.ratio, "ci95": interval(ratio.ci95)},
                "notes": apart_notes(column, dots),
            }
        )
    return {
        "test_id": column.test.id,
        "label": column.method.label_for(column.test.orientation),
        "orientation": column.test.orientation,
        "shape": column.method.shape(column.test.shape).label,
        "quantity": column.quantity,
        "quantity_label": spec.label,
        "unit": spec.unit,
        "good_side": str(spec.good_side),
        "replicates": column.test.replicates,
        "margin": margin,
        "margin_relative": column.test.margin_value if column.test.margin_relative else None,
        "revision": revision,
        "cells": cells,
    }
