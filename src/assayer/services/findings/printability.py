"""How many prints of a material came off good, over all its trials and batches (METHODS 12)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.stats.shares import wilson
from assayer.services.dial_in.trails import PRINTED
from assayer.services.findings.across_views import Printability
from assayer.services.stock.materials import material_view
from assayer.store.counting import count_if
from assayer.store.models import Arm, Batch, Material, Printer, Specimen, Trail, Trial, Variant


def printability(session: Session, arms: Sequence[Arm]) -> list[Printability]:
    """By material, in the order of the arms, and printer. A batch is one print, good where all its pieces are; a control print says nothing of the material."""
    materials = {a.variant.material_id: a.variant.material for a in arms}
    prints: dict[tuple[str, str], list[tuple[datetime, bool]]] = defaultdict(list)
    trials = (
        select(Trail.material_id, Printer.name, Trial.printed_at, Trial.outcome)
        .join(Trail, Trail.id == Trial.trail_id)
        .join(Printer, Printer.id == Trail.printer_id)
        .where(Trail.material_id.in_(materials), Trial.retracted_at.is_(None), Trial.control_material_id.is_(None), Trial.outcome.in_(PRINTED))
    )
    for material, printer, at, outcome in session.execute(trials):
        if at is not None:
            prints[material, printer].append((at, outcome == "good"))
    batches = (
        select(Variant.material_id, func.coalesce(Printer.name, ""), Batch.printed_at, count_if(Specimen.outcome != "good"))
        .join(Batch, Batch.variant_id == Variant.id)
        .join(Specimen, Specimen.batch_id == Batch.id)
        .outerjoin(Printer, Printer.id == Batch.printer_id)
        .where(Variant.material_id.in_(materials))
        .group_by(Batch.id)
        .order_by(Batch.printed_at, Batch.id)
    )
    for material, printer, at, faulty in session.execute(batches):
        prints[material, printer].append((at, not faulty))
    return [
        _of_material(m, printer, sorted(of, key=lambda print_: print_[0]))
        for m in materials.values()
        for (material, printer), of in prints.items()
        if material == m.id
    ]


def _of_material(material: Material, printer: str, prints: Sequence[tuple[datetime, bool]]) -> Printability:
    good = sum(is_good for _, is_good in prints)
    share = wilson(good, len(prints))
    first = next((i for i, (_, is_good) in enumerate(prints, 1) if is_good), None)
    return Printability(
        material=material_view(material), printer=printer, good=good, printed=len(prints), share=share.share, low=share.low, high=share.high, first_good=first
    )
