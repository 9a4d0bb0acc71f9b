"""The stock as a person scans it, and the dossier of one material."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, Select, distinct, exists, func, or_, select
from sqlalchemy.orm import Session

from assayer.core.filament.claims import QUANTITIES
from assayer.core.filament.mass import prices, strand_length
from assayer.core.methods import REGISTRY
from assayer.core.methods import method as find_method
from assayer.core.shapes.volume import solid_volume
from assayer.core.stats.groups import summarise
from assayer.services.materials import claim_dict, doubts_of, material_dict, material_record, statement, window_of
from assayer.services.spool_facts import by_material, facts_of, spool_dict
from assayer.services.workspace import Workspace, find
from assayer.store.models import Arm, Batch, Change, Claim, Material, ReportedResult, Result, Run, Specimen, Spool, Study, Test, Variant

_LABELS = {q.name: q.label for q in QUANTITIES}

_SHOWN_SHAPE = "short-pull-bar"
"""What "per specimen" means in lists; the dossier shows every shape."""

_ASKED_BY_CLAIMS = {"strength": ("strength", "flat"), "apparent_modulus": ("apparent_modulus", "flat"), "layer_adhesion": ("strength", "upright")}
"""Which measured quantity and orientation a claim is held against."""


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


def list_stock(workspace: Workspace, asked: StockQuery) -> dict[str, Any]:
    """A page of materials with their spools, what has been measured, and prices."""
    with workspace.read() as session:
        found = _filtered(asked)
        total = session.scalar(select(func.count()).select_from(found.subquery())) or 0
        page = session.scalars(found.order_by(*_order(asked.sort)).limit(asked.limit).offset(asked.offset)).all()
        ids = [m.id for m in page]
        # their materials are in the session already: nothing is loaded again for each
        spools = session.scalars(select(Spool).where(Spool.material_id.in_(ids), Spool.gone_at.is_(None)).order_by(Spool.received_on)).all()
        grouped = by_material(facts_of(session, spools, workspace.clock(), in_full=False).values())
        measured, claimed = _measured_counts(session, ids), _claim_counts(session, ids)
        items = [
            material_record(m)
            | _price_dict(m)
            | {
                "spools": [spool_dict(f) for f in grouped.get(m.id, [])],
                "measured": measured.get(m.id, {}),
                "claims": claimed.get(m.id, 0),
                "contradictions": m.doubts,
            }
            for m in page
        ]
        polymers = session.execute(select(Material.polymer, func.count()).group_by(Material.polymer).order_by(Material.polymer))
        strip = [{"key": f"{m.name} {o}", "label": m.label_for(o)} for m in REGISTRY.values() for o in ("flat", "on edge", "upright")]
        return {
            "items": items,
            "total": total,
            "limit": asked.limit,
            "offset": asked.offset,
            "polymers": [{"name": name, "count": count} for name, count in polymers],
            "strip": strip,
        }


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
        "unchecked": exists().where(at_hand, Spool.verdict.is_(None)),
        **{verdict: exists().where(at_hand, Spool.verdict == verdict) for verdict in ("fit", "dry first", "reject")},
    }
    return found.where(states[asked.state]) if asked.state in states else found


def _order(sort: str) -> Sequence[Any]:
    name = (Material.maker, Material.product, Material.colour)
    per_kg = Material.price / Material.net_mass
    return {"price": (per_kg.is_(None), per_kg, *name), "newest": (Material.created_at.desc(), *name), "polymer": (Material.polymer, *name)}.get(sort, name)


def _measured_counts(session: Session, ids: list[str]) -> dict[str, dict[str, int]]:
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


def _claims_of(session: Session, ids: list[str]) -> dict[str, list[Claim]]:
    claims: dict[str, list[Claim]] = defaultdict(list)
    for claim in session.scalars(select(Claim).where(Claim.material_id.in_(ids), Claim.retracted_at.is_(None)).order_by(Claim.entered_at, Claim.id)):
        claims[claim.material_id].append(claim)
    return claims


def _claim_counts(session: Session, ids: list[str]) -> dict[str, int]:
    rows = session.execute(select(Claim.material_id, func.count()).where(Claim.material_id.in_(ids), Claim.retracted_at.is_(None)).group_by(Claim.material_id))
    return {key: count for key, count in rows}


def _price_dict(m: Material) -> dict[str, Any]:
    none: dict[str, float | None] = {"per_kg": None, "per_cm3": None, "per_specimen": None, "specimen_mass": None}
    volume = solid_volume(find_method("tension").shape(_SHOWN_SHAPE))
    if m.density is not None:
        none["specimen_mass"] = volume * m.density
    if m.price is None or m.net_mass is None:
        return none
    found = prices(m.price, m.net_mass, m.density)
    return none | {"per_kg": found.per_kg, "per_cm3": found.per_cm3, "per_specimen": None if found.per_cm3 is None else found.per_cm3 * volume}


# dossier


def dossier(workspace: Workspace, material_id: str) -> dict[str, Any]:
    """All that is known of a material: what the maker says, what was measured, what others report, its spools."""
    with workspace.read() as session:
        material = find(session, Material, material_id)
        line = session.scalars(select(Material).where(Material.maker == material.maker, Material.product == material.product).order_by(Material.colour)).all()
        claims = _claims_of(session, [m.id for m in line])
        own = claims.get(material.id, [])
        tested = _measured_counts(session, [m.id for m in line])
        by_colour = _measured(session, [m.id for m in line])
        measured = by_colour.get(material.id, [])
        spools = session.scalars(select(Spool).where(Spool.material_id == material.id).order_by(Spool.received_on.desc(), Spool.code)).all()
        facts = facts_of(session, spools, workspace.clock())
        said = [statement(c) for m in line for c in claims.get(m.id, [])]
        return {
            "material": material_record(material) | _price_dict(material) | {"created_at": material.created_at},
            "length": strand_length(material.net_mass, material.density, material.diameter) if material.net_mass and material.density else None,
            "shapes": _shapes(material),
            "window": window_of(material).as_dict(),
            "claims": [_claim_view(c, measured, line) for m in line for c in claims.get(m.id, [])],
            "contradictions": [c.as_dict() for c in doubts_of(material, said)],
            "line": [material_dict(m) | {"differs": _differences(material, m), "measured": tested.get(m.id, {})} for m in line],
            "line_spread": _line_spread(line, by_colour),
            "spools": [spool_dict(facts[s.id]) for s in spools],
            "measured": measured,
            "reported": [_reported_dict(r) for r in _reported(session, material.id)],
            "moisture_lost": _moisture_lost(facts.values()),
            "history": _history(session, material, own),
        }


def _shapes(m: Material) -> list[dict[str, Any]]:
    if m.density is None:
        return []
    per_cm3 = _price_dict(m)["per_cm3"]
    rows = []
    for method in REGISTRY.values():
        for shape in method.shapes:
            volume = solid_volume(shape)
            rows.append(
                {"name": shape.name, "label": shape.label, "volume": volume, "mass": volume * m.density, "price": None if per_cm3 is None else per_cm3 * volume}
            )
    return rows


def _claim_view(c: Claim, measured: list[dict[str, Any]], line: Sequence[Material]) -> dict[str, Any]:
    quantity, orientation = _ASKED_BY_CLAIMS.get(c.quantity or "", ("", ""))
    beside = [m for m in measured if m["quantity"] == quantity and m["orientation"] == orientation] if c.relation in ("value", "at least", "at most") else []
    colour = next(m.colour for m in line if m.id == c.material_id)
    return claim_dict(c) | {"label": _LABELS.get(c.quantity or "", ""), "colour": colour, "beside": beside}


def _differences(one: Material, other: Material) -> list[str]:
    """In which registered values a colour of the line differs: said, never averaged away."""
    words = []
    for name, label, unit in (("density", "density", "g/cm³"), ("diameter", "diameter", "mm")):
        a, b = getattr(one, name), getattr(other, name)
        if a != b and b is not None:
            words.append(f"{label} {b:g} {unit}")
    a_kg, b_kg = _price_dict(one)["per_kg"], _price_dict(other)["per_kg"]
    if b_kg is not None and a_kg != b_kg:
        words.append(f"{b_kg:.2f} {other.currency}/kg")
    mine, its = window_of(one), window_of(other)
    words += [
        f"{label} {getattr(its, name).words(unit)}"
        for name, label, unit in _window_spans()
        if getattr(its, name) != getattr(mine, name) and getattr(its, name).known
    ]
    return words


def _window_spans() -> Sequence[tuple[str, str, str]]:
    return (("nozzle", "nozzle", "°C"), ("bed", "bed", "°C"), ("chamber", "chamber", "°C"), ("speed", "speed", "mm/s"))


def _measured(session: Session, ids: list[str]) -> dict[str, list[dict[str, Any]]]:
    """Groups of measured values by material, one for each study, test, arm, rig and quantity: unlike is never put together."""
    rows = session.execute(
        select(Variant.material_id, Result.quantity, Result.value, Result.unit, Test, Study.title, Run.rig_version_id, Arm.id)
        .join(Run, Run.id == Result.run_id)
        .join(Test, Test.id == Run.test_id)
        .join(Study, Study.id == Test.study_id)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Batch, Batch.id == Specimen.batch_id)
        .join(Variant, Variant.id == Batch.variant_id)
        .join(Arm, (Arm.variant_id == Variant.id) & (Arm.study_id == Study.id))
        .where(Variant.material_id.in_(ids), Run.retracted_at.is_(None), Run.validity == "counts", Result.bound == "exact")
        .order_by(Study.created_at.desc(), Test.position)
    ).all()
    groups: dict[tuple[str, ...], tuple[Any, list[float]]] = {}
    for row in rows:
        key = (row.Test.id, row.quantity, row.rig_version_id, row.id)
        groups.setdefault(key, (row, []))[1].append(row.value)
    shown: dict[str, list[dict[str, Any]]] = defaultdict(list)
    for row, values in groups.values():
        method = find_method(row.Test.method)
        spec = next((q for q in method.quantities if q.name == row.quantity), None)
        if spec is None:
            continue
        group = summarise(values)
        shown[row.material_id].append(
            {
                "study_id": row.Test.study_id,
                "study": row.title,
                "test_id": row.Test.id,
                "test": method.label_for(row.Test.orientation),
                "orientation": row.Test.orientation,
                "rig_version_id": row.rig_version_id,
                "quantity": row.quantity,
                "label": spec.label,
                "unit": row.unit,
                "good_side": str(spec.good_side),
                "main": row.quantity == method.main,
                "values": values,
                "n": len(values),
                "mean": group.mean,
                "ci95": None if group.ci95 is None else (group.ci95.low, group.ci95.high),
            }
        )
    return shown


def _line_spread(line: Sequence[Material], measured: dict[str, list[dict[str, Any]]]) -> list[dict[str, Any]]:
    """How far the colours of a line lie apart where two or more were measured alike: each with its own mean."""
    alike: dict[tuple[str, ...], list[tuple[str, dict[str, Any]]]] = defaultdict(list)
    for m in line:
        for g in measured.get(m.id, []):
            if g["main"]:
                alike[g["test_id"], g["quantity"], g["rig_version_id"]].append((m.colour, g))
    shown = []
    for groups in alike.values():
        if len({colour for colour, _ in groups}) < 2:
            continue
        means = sorted(({"colour": colour, "mean": g["mean"], "n": g["n"]} for colour, g in groups), key=lambda x: x["mean"])
        first = groups[0][1]
        ratio = means[-1]["mean"] / means[0]["mean"]
        shown.append({"study": first["study"], "test": first["test"], "label": first["label"], "unit": first["unit"], "means": means, "ratio": ratio})
    return shown


def _reported(session: Session, material_id: str) -> Sequence[ReportedResult]:
    standing = select(ReportedResult).where(ReportedResult.material_id == material_id, ReportedResult.retracted_at.is_(None))
    return session.scalars(standing.order_by(ReportedResult.quantity, ReportedResult.entered_at, ReportedResult.id)).all()


def _reported_dict(r: ReportedResult) -> dict[str, Any]:
    fields = ("id", "quantity", "value", "unit", "n", "sd", "method", "source", "reported_on", "entered_by")
    return {name: getattr(r, name) for name in fields}


def _moisture_lost(facts: Any) -> list[dict[str, Any]]:
    """What every weighed drying took out of spools of this material."""
    rows = []
    for f in facts:
        for run in f.sessions:
            lost = f.lost_in(run.id)
            if lost is not None and run.ended_at is not None:
                hours = (run.ended_at - run.started_at).total_seconds() / 3600
                rows.append({"code": f.spool.code, "spool_id": f.spool.id, "lost": lost, "at": run.ended_at, "temperature": run.temperature, "hours": hours})
    return sorted(rows, key=lambda r: r["at"], reverse=True)


def _history(session: Session, material: Material, claims: list[Claim]) -> list[dict[str, Any]]:
    ids = [material.id, *(c.id for c in claims)]
    rows = session.scalars(select(Change).where(Change.entity_id.in_(ids)).order_by(Change.seq.desc()).limit(30))
    return [{"at": c.at, "who": c.who, "entity": c.entity, "action": c.action, "before": c.before, "after": c.after} for c in rows]
