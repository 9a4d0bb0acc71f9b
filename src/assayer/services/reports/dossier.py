"""The dossier of one material: what the maker says, what was measured, what others report, its spools."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.filament.claims import QUANTITIES
from assayer.core.filament.mass import strand_length
from assayer.core.methods import REGISTRY
from assayer.core.shapes.volume import solid_volume
from assayer.services.stock.listing import _measured_counts, _price_dict
from assayer.services.stock.materials import claim_dict, doubts_of, material_dict, material_record, statement, window_of
from assayer.services.stock.spool_state import spool_dict, states_of
from assayer.services.studies.history import _measured
from assayer.services.unit import Workspace, find
from assayer.store.models import Change, Claim, Material, ReportedResult, Spool

_LABELS = {q.name: q.label for q in QUANTITIES}


_ASKED_BY_CLAIMS = {"strength": ("strength", "flat"), "apparent_modulus": ("apparent_modulus", "flat"), "layer_adhesion": ("strength", "upright")}
"""Which measured quantity and orientation a claim is held against."""


def _claims_of(session: Session, ids: list[str]) -> dict[str, list[Claim]]:
    claims: dict[str, list[Claim]] = defaultdict(list)
    for claim in session.scalars(select(Claim).where(Claim.material_id.in_(ids), Claim.retracted_at.is_(None)).order_by(Claim.entered_at, Claim.id)):
        claims[claim.material_id].append(claim)
    return claims


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
        facts = states_of(session, spools, workspace.clock())
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
