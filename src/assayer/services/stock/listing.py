"""The stock as a person scans it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, Select, distinct, exists, func, or_, select
from sqlalchemy.orm import Session

from assayer.core.filament.mass import prices
from assayer.core.methods import REGISTRY
from assayer.core.shapes.pull_bars import SHORT_PULL_BAR
from assayer.services.stock.materials import material_record
from assayer.services.stock.spool_state import by_material, spool_item, states_of
from assayer.services.stock.views import NamedCount, PricesView, StockItem, StockPage, StripPart
from assayer.services.unit import Workspace
from assayer.store.models import Batch, Claim, Material, Run, Specimen, Spool, Test, Variant


@dataclass(frozen=True, slots=True)
class StockQuery:
    """What is looked for: words, polymer, filled or not, state of the spools; the order; which page."""

    words: str = ""
    polymer: str = ""
    filled: bool | None = None
    state: str = ""
    sort: str = "name"
    limit: int = 20
    offset: int = 0


def list_stock(workspace: Workspace, asked: StockQuery) -> StockPage:
    """A page of materials with their spools, what has been measured, and prices."""
    with workspace.read() as session:
        found = _filtered(asked)
        total = session.scalar(select(func.count()).select_from(found.subquery())) or 0
        page = session.scalars(found.order_by(*_order(asked.sort)).limit(asked.limit).offset(asked.offset)).all()
        ids = [m.id for m in page]
        # their materials are in the session already: nothing is loaded again for each
        spools = session.scalars(select(Spool).where(Spool.material_id.in_(ids), Spool.gone_at.is_(None)).order_by(Spool.received_on)).all()
        grouped = by_material(states_of(session, spools, workspace.clock(), in_full=False).values())
        measured, claimed = measured_counts(session, ids), _claim_counts(session, ids)
        items = [
            StockItem(
                **dict(material_record(m)),
                **dict(prices_of(m)),
                spools=[spool_item(f) for f in grouped.get(m.id, [])],
                measured=measured.get(m.id, {}),
                claims=claimed.get(m.id, 0),
                contradictions=m.doubts,
            )
            for m in page
        ]
        polymers = session.execute(select(Material.polymer, func.count()).group_by(Material.polymer).order_by(Material.polymer))
        return StockPage(
            items=items,
            total=total,
            limit=asked.limit,
            offset=asked.offset,
            polymers=[NamedCount(name=name, count=count) for name, count in polymers],
            strip=[StripPart(key=f"{m.name} {o}", label=m.label_for(o)) for m in REGISTRY.values() for o in m.orientations],
        )


def _filtered(asked: StockQuery) -> Select[Material]:
    found = select(Material)
    # LIKE disregards the case of plain letters
    text = Material.maker + " " + Material.product + " " + Material.colour + " " + Material.polymer + " " + func.coalesce(Material.filler, "")
    for word in asked.words.split()[:8]:
        named = text.contains(word, autoescape=True)
        has_code = exists().where(Spool.material_id == Material.id, Spool.code == word.upper())
        found = found.where(or_(named, has_code) if len(word) in (5, 6) else named)
    if asked.polymer:
        found = found.where(Material.polymer == asked.polymer)
    if asked.filled is not None:
        found = found.where(Material.filler.is_not(None) if asked.filled else Material.filler.is_(None))
    at_hand = (Spool.material_id == Material.id) & Spool.gone_at.is_(None)
    states: dict[str, ColumnElement[bool]] = {
        "at hand": exists().where(at_hand),
        "none": ~exists().where(at_hand),
        "unchecked": exists().where(at_hand, Spool.decision.is_(None)),
        **{decision: exists().where(at_hand, Spool.decision == decision) for decision in ("fit", "dry first", "reject")},
    }
    return found.where(states[asked.state]) if asked.state in states else found


def _order(sort: str) -> Sequence[Any]:
    name = (Material.maker, Material.product, Material.colour)
    per_kg = Material.price / Material.net_mass
    return {"price": (per_kg.is_(None), per_kg, *name), "newest": (Material.created_at.desc(), *name), "polymer": (Material.polymer, *name)}.get(sort, name)


def measured_counts(session: Session, ids: list[str]) -> dict[str, dict[str, int]]:
    """Specimens tested of each material, by method and orientation."""
    rows = session.execute(
        select(Variant.material_id, Test.method, Test.orientation, func.count(distinct(Run.specimen_id)))
        .select_from(Variant)
        .join(Batch, Batch.variant_id == Variant.id)
        .join(Specimen, Specimen.batch_id == Batch.id)
        .join(Run, Run.specimen_id == Specimen.id)
        .join(Test, Test.id == Run.test_id)
        .where(Variant.material_id.in_(ids), Run.retracted_at.is_(None), Run.complete, Run.validity != "left_out")
        .group_by(Variant.material_id, Test.method, Test.orientation)
    )
    counts: dict[str, dict[str, int]] = defaultdict(dict)
    for material_id, method, orientation, count in rows:
        counts[material_id][f"{method} {orientation}"] = count
    return counts


def _claim_counts(session: Session, ids: list[str]) -> dict[str, int]:
    rows = session.execute(select(Claim.material_id, func.count()).where(Claim.material_id.in_(ids), Claim.retracted_at.is_(None)).group_by(Claim.material_id))
    return {key: count for key, count in rows}


def prices_of(m: Material) -> PricesView:
    """Prices of a material, and the mass of the specimen that lists mean."""
    volume = SHORT_PULL_BAR.volume
    mass = None if m.density is None else volume * m.density
    if m.price is None or m.net_mass is None:
        return PricesView(per_kg=None, per_cm3=None, per_specimen=None, specimen_mass=mass)
    found = prices(m.price, m.net_mass, m.density)
    per_specimen = None if found.per_cm3 is None else found.per_cm3 * volume
    return PricesView(per_kg=found.per_kg, per_cm3=found.per_cm3, per_specimen=per_specimen, specimen_mass=mass)
