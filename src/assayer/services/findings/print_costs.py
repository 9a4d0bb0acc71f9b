"""Price of the material and print time of the specimens, as rows beside the tests of a study."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.stats.profile import Change, in_margins
from assayer.core.stats.verdicts import GoodSide
from assayer.services.findings.across_views import AcrossCell, AcrossRow
from assayer.services.findings.views import RelativeView
from assayer.services.views import QuantityView
from assayer.store.models import Arm, Batch, Slot, Specimen

MARGIN = 0.10
"""A price or a time a tenth off is no difference that matters, as with results by default (METHODS 13)."""


def price_row(arms: Sequence[Arm], reference_id: str | None) -> list[AcrossRow]:
    """Price per kg in the reference's currency; no row where its price or net mass is not known, or all arms are of one material."""
    materials = {a.id: a.variant.material for a in arms}
    reference = materials.get(reference_id or "")
    if reference is None or not reference.price or not reference.net_mass or len({m.id for m in materials.values()}) == 1:
        return []
    prices = {a: m.price / m.net_mass * 1000 for a, m in materials.items() if m.price is not None and m.net_mass and m.currency == reference.currency}
    quantity = QuantityView(name="price", label="price per kg", unit=reference.currency, good_side=GoodSide.LOWER)
    return [_row("Price", quantity, prices, reference_id)]


def print_time_rows(session: Session, arms: Sequence[Arm], reference_id: str | None) -> list[AcrossRow]:
    """Mean time of prints that hold the same specimens, of those that most arms share with the reference; min."""
    contents = (
        select(Batch.id, Batch.minutes, Slot.arm_id, Specimen.shape, Specimen.orientation, func.count())
        .join(Specimen, Specimen.batch_id == Batch.id)
        .join(Slot, Slot.id == Specimen.slot_id)
        .where(Slot.arm_id.in_([a.id for a in arms]), Batch.minutes.is_not(None))
        .group_by(Batch.id, Slot.arm_id, Specimen.shape, Specimen.orientation)
        .order_by(Batch.id, Slot.arm_id, Specimen.shape, Specimen.orientation)
    )
    prints: dict[tuple[str, float, str], list[tuple[str, str, int]]] = defaultdict(list)
    for batch_id, minutes, arm_id, shape, orientation, count in session.execute(contents):
        if minutes is not None:
            prints[batch_id, minutes, arm_id].append((shape, orientation, count))
    by_content: dict[tuple[tuple[str, str, int], ...], dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    for (_, minutes, arm_id), pieces_printed in prints.items():
        by_content[tuple(pieces_printed)][arm_id].append(minutes)
    shared = [(content, of) for content, of in by_content.items() if reference_id in of and len(of) > 1]
    if not shared:
        return []
    content, minutes_by_arm = max(shared, key=lambda item: len(item[1]))
    pieces = sum(count for _, _, count in content)
    quantity = QuantityView(name="print_time", label=f"time of a print of {pieces} specimens", unit="min", good_side=GoodSide.LOWER)
    return [_row("Print time", quantity, {a: sum(of) / len(of) for a, of in minutes_by_arm.items()}, reference_id)]


def _row(label: str, quantity: QuantityView, values: Mapping[str, float], reference_id: str | None) -> AcrossRow:
    """Known figures: without interval, apart where they differ by more than the margin."""
    reference = values[reference_id or ""]
    cells = []
    for arm_id, value in values.items():
        is_reference = arm_id == reference_id
        place = in_margins(value - reference, None, MARGIN * reference, GoodSide.LOWER) if reference and not is_reference else None
        change = None
        if place is not None:
            change = Change.ALIKE if abs(place.at) <= 1 else Change.GAIN if place.at > 0 else Change.LOSS
        factor = RelativeView(factor=value / reference, ci95=None) if place is not None else None
        cells.append(
            AcrossCell(
                arm_id=arm_id, at=None if place is None else place.at, interval=None, change=change, group=None, value=value, verdict=None, relative=factor,
                provisional=None, notes=[],
            )
        )  # fmt: skip
    return AcrossRow(test_id=None, label=label, orientation="", quantity=quantity, margin=MARGIN * reference, margin_share=MARGIN, cells=cells)
