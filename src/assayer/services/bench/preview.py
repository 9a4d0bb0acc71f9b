"""Trying an entry: reduced and checked for plausibility, but not kept."""

from __future__ import annotations

from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method, Reduction
from assayer.services.bench.reductions import make_inputs, parse_field, refuse_not_positive
from assayer.services.bench.requests import PreviewRequest
from assayer.services.unit import Workspace, find
from assayer.store.models import Curve, Result, RigVersion, Run, Slot, Specimen, Test

_APART = 0.25
"""An entry this far (relative) from the others of its arm is pointed out when not blind."""


def preview_entry(workspace: Workspace, trial: PreviewRequest) -> dict[str, Any]:
    """Reduce what stands in the entry fields without keeping it: results, and what looks implausible."""
    with workspace.read() as session:
        test = find(session, Test, trial.test_id)
        rig = find(session, RigVersion, trial.rig_version_id)
        fields: dict[str, list[float]] = {}
        checks: list[dict[str, Any]] = []
        errors: list[dict[str, Any]] = []
        for i, reading in enumerate(trial.readings):
            if not reading.raw.strip():
                continue
            try:
                quantity = parse_field(test, rig, reading.field, reading.raw)
                refuse_not_positive(reading.field, quantity.value)
                fields.setdefault(reading.field, []).append(quantity.value)
            except EntryError as error:
                errors.append({"field": reading.field, "row": i, "text": error.message})
        if errors:
            return {"reduction": None, "checks": checks, "errors": errors}
        curve = find(session, Curve, trial.curve_id) if trial.curve_id else None
        method = find_method(test.method)
        checks += _section_checks(method, test, fields)
        try:
            reduction = method.reduce(make_inputs(session, test, rig, workspace.clock(), fields, curve, {}))
        except EntryError as error:
            missing = error.field is not None and not fields.get(error.field)
            return {"reduction": None, "checks": checks, "errors": [] if missing else [{"field": error.field, "row": None, "text": error.message}]}
        checks = _result_checks(session, method, test, reduction, None if trial.blind else trial.specimen_id) + checks
        if rig.capacity is not None:
            peak = reduction.get("peak_force")
            if peak is not None and peak.value > rig.capacity:
                checks.append({"level": "caution", "text": f"{peak.value:.0f} N is above the rig's {rig.capacity:.0f} N: is the unit right?"})
        return {"reduction": reduction.as_dict(), "checks": checks, "errors": []}


def _section_checks(method: Method, test: Test, fields: dict[str, list[float]]) -> list[dict[str, Any]]:
    shape = method.shape(test.shape)
    checks = []
    for name, nominal in (("width", shape.width), ("thickness", shape.thickness)):
        values = fields.get(name, [])
        if not values:
            continue
        mean = float(np.mean(values))
        if not 0.8 * nominal <= mean <= 1.2 * nominal:
            hundred = next((k for k in (100, 10, 1000) if 0.8 * nominal <= mean / k <= 1.2 * nominal), None)
            meant = f": was {mean / hundred:.2f} mm meant?" if hundred else ": is it the right shape?"
            checks.append({"level": "caution", "text": f"{name} {mean:.2f} mm, but the shape has {nominal:g} mm{meant}"})
        elif len(values) > 1:
            spread = (max(values) - min(values)) / mean
            level = "caution" if spread > 0.05 else "fine"
            checks.append({"level": level, "text": f"{name} spread {spread:.1%}"})
    return checks


def _result_checks(session: Session, method: Method, test: Test, reduction: Reduction, specimen_id: str | None) -> list[dict[str, Any]]:
    checks = []
    for result in reduction.results:
        spec = method.quantity(result.quantity)
        low, high = spec.plausible or (float("-inf"), float("inf"))
        if not low <= result.value <= high:
            checks.append(
                {
                    "level": "caution",
                    "text": f"{spec.label} {result.value:.4g} {spec.unit} is outside {low:g} … {high:g} {spec.unit}: check the load and its unit",
                }
            )
    main = reduction.get(method.main)
    if main is not None and specimen_id is not None:
        others = _others_of_arm(session, test, specimen_id, method.main)
        if len(others) >= 2:
            mean = float(np.mean(others))
            if abs(main.value - mean) > _APART * mean:
                checks.append({"level": "caution", "text": f"{main.value / mean - 1:+.0%} from the mean of the other {len(others)} of this arm"})
    if not any(c["level"] == "caution" for c in checks):
        checks.insert(0, {"level": "plausible", "text": f"for {method.label.lower()} on this section"})
    return checks


def _others_of_arm(session: Session, test: Test, specimen_id: str, quantity: str) -> list[float]:
    own = session.scalar(select(Slot.arm_id).join(Specimen, Specimen.slot_id == Slot.id).where(Specimen.id == specimen_id))
    rows = session.scalars(
        select(Result.value)
        .join(Run, Run.id == Result.run_id)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Slot, Slot.id == Specimen.slot_id)
        .where(Result.test_id == test.id, Result.quantity == quantity, Slot.arm_id == own, Run.validity != "left_out", Specimen.id != specimen_id)
    )
    return list(rows)
