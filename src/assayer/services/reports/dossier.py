"""The dossier of one material: what the maker says, what was measured, what others report, its spools."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping, Sequence

from sqlalchemy import func, or_, select
from sqlalchemy.orm import Session, joinedload

from assayer.core.filament.claims import QUANTITIES
from assayer.core.filament.mass import strand_length
from assayer.core.filament.window import SPANS
from assayer.core.settings.limits import outside_window
from assayer.core.shapes import SHAPES
from assayer.core.stats.verdicts import Margin
from assayer.services.changes import record_of
from assayer.services.dial_in.trails import current_sheets
from assayer.services.findings.claims import judge_claim, named_in
from assayer.services.reports.views import (
    ClaimQuantityView,
    ColourMean,
    Dossier,
    DossierClaim,
    DossierMaterial,
    LineMember,
    LineSpread,
    MoistureLost,
    OutsideView,
    PrintedAs,
    ReportedView,
    ShapeMass,
)
from assayer.services.rigs.margins import margins_by_quantity
from assayer.services.stock.listing import measured_counts, prices_of
from assayer.services.stock.materials import claim_view, doubts_of, material_record, material_view, statement, window_of, window_view
from assayer.services.stock.products import line_of, related_of
from assayer.services.stock.spool_state import SpoolState, spool_item, states_of
from assayer.services.stock.views import ContradictionView
from assayer.services.studies.history import MeasuredGroup, groups_of
from assayer.services.studies.listing import settings_of
from assayer.services.studies.views import MeasuredView
from assayer.services.unit import Workspace, find
from assayer.services.views import RecordEntry
from assayer.store.models import Arm, Claim, Material, ReportedResult, Spool, Variant

_LABELS = {q.name: q.label for q in QUANTITIES}


def _claims_of(session: Session, ids: list[str]) -> dict[str, list[Claim]]:
    claims: dict[str, list[Claim]] = defaultdict(list)
    for claim in session.scalars(select(Claim).where(Claim.material_id.in_(ids), Claim.retracted_at.is_(None)).order_by(Claim.entered_at, Claim.id)):
        claims[claim.material_id].append(claim)
    return claims


def dossier(workspace: Workspace, material_id: str) -> Dossier:
    """All that is known of a material: what the maker says, what was measured, what others report, its spools."""
    with workspace.read() as session:
        material = find(session, Material, material_id)
        line = line_of(session, material)
        ids = [m.id for m in line]
        claims = _claims_of(session, ids)
        own = claims.get(material.id, [])
        tested = measured_counts(session, ids)
        all_claims = [c for m in line for c in claims.get(m.id, [])]
        named = _named(session, all_claims)
        groups = groups_of(session, list(dict.fromkeys([*ids, *(m.id for m in named)])))
        margins = margins_by_quantity(session) if all_claims else {}
        by_colour = {key: [g.view for g in own] for key, own in groups.items() if key in ids}
        measured = by_colour.get(material.id, [])
        spools = session.scalars(select(Spool).where(Spool.material_id == material.id).order_by(Spool.received_on.desc(), Spool.code)).all()
        states = states_of(session, spools, workspace.clock())
        said = [statement(c) for m in line for c in claims.get(m.id, [])]
        claim_views = [_claim(c, groups, (material, line, named), margins) for c in all_claims]
        return Dossier(
            material=DossierMaterial(**dict(material_record(material)), **dict(prices_of(material)), created_at=material.created_at),
            length=strand_length(material.net_mass, material.density, material.diameter) if material.net_mass and material.density else None,
            shapes=_shapes(material),
            window=window_view(material),
            claims=claim_views,
            claim_quantities=[ClaimQuantityView(name=q.name, label=q.label) for q in QUANTITIES],
            printed=_printed(session, {v.measured.arm_id for c in claim_views for v in c.verdicts}),
            contradictions=[ContradictionView.model_validate(c) for c in doubts_of(material, said)],
            related=related_of(session, material),
            line=[LineMember(**dict(material_view(m)), differs=_differences(material, m), measured=tested.get(m.id, {})) for m in line],
            line_spread=_line_spread(line, by_colour),
            spools=[spool_item(states[s.id]) for s in spools],
            history=measured,
            reported=[ReportedView.model_validate(r) for r in _reported(session, material.id)],
            moisture_lost=_moisture_lost(states.values()),
            current=current_sheets(session, material.id),
            record=_record(session, material, own),
        )


def _shapes(m: Material) -> list[ShapeMass]:
    if m.density is None:
        return []
    per_cm3 = prices_of(m).per_cm3
    return [
        ShapeMass(name=s.name, label=s.label, volume=cm3, mass=cm3 * m.density, price=None if per_cm3 is None else per_cm3 * cm3)
        for s in SHAPES.values()
        for cm3 in (s.volume,)
    ]


def _named(session: Session, claims: Sequence[Claim]) -> list[Material]:
    """The materials that claims compare theirs with."""
    references = [c.reference for c in claims if c.relation in ("times", "more", "less") and c.reference]
    if not references:
        return []
    named = or_(*(func.instr(func.lower(reference), func.lower(Material.product)) > 0 for reference in references))
    materials = session.scalars(select(Material).where(named)).all()
    found = {m.id: m for reference in references for m in named_in(reference, materials)}
    return list(found.values())


def _claim(
    c: Claim, groups: Mapping[str, Sequence[MeasuredGroup]], of: tuple[Material, Sequence[Material], Sequence[Material]], margins: Mapping[str, Margin]
) -> DossierClaim:
    material, line, named = of
    colour = next(m.colour for m in line if m.id == c.material_id)
    verdicts = judge_claim(c, groups.get(material.id, []), groups, named, margins)
    return DossierClaim(**dict(claim_view(c)), label=_LABELS.get(c.quantity or "", ""), colour=colour, verdicts=verdicts)


def _printed(session: Session, arm_ids: Collection[str]) -> list[PrintedAs]:
    """How arms were printed, and what of it lies outside the maker's window."""
    if not arm_ids:
        return []
    with_parts = joinedload(Arm.variant).joinedload(Variant.sheet), joinedload(Arm.variant).joinedload(Variant.material).joinedload(Material.window)
    arms = session.scalars(select(Arm).where(Arm.id.in_(arm_ids)).options(*with_parts).order_by(Arm.id)).all()
    return [
        PrintedAs(
            arm_id=arm.id, settings=arm.variant.sheet.name,
            outside=[OutsideView.model_validate(o) for o in outside_window(settings_of(arm), window_of(arm.variant.material))],
        )
        for arm in arms
    ]  # fmt: skip


def _differences(one: Material, other: Material) -> list[str]:
    """In which registered values a colour of the line differs: said, never averaged away."""
    words = []
    for name, label, unit in (("density", "density", "g/cm³"), ("diameter", "diameter", "mm")):
        a, b = getattr(one, name), getattr(other, name)
        if a != b and b is not None:
            words.append(f"{label} {b:g} {unit}")
    a_kg, b_kg = prices_of(one).per_kg, prices_of(other).per_kg
    if b_kg is not None and a_kg != b_kg:
        words.append(f"{b_kg:.2f} {other.currency}/kg")
    mine, its = window_of(one), window_of(other)
    words += [f"{name} {getattr(its, name).words(unit)}" for name, _, unit in SPANS if getattr(its, name) != getattr(mine, name) and getattr(its, name).known]
    return words


def _line_spread(line: Sequence[Material], measured: dict[str, list[MeasuredView]]) -> list[LineSpread]:
    """How far the colours of a line lie apart where two or more were measured alike: each with its own mean."""
    alike: dict[tuple[str, ...], list[tuple[str, MeasuredView]]] = defaultdict(list)
    for m in line:
        for g in measured.get(m.id, []):
            if g.main:
                alike[g.test_id, g.quantity, g.rig_version_id, g.end, g.treatment, g.settings].append((m.colour, g))
    shown = []
    for groups in alike.values():
        if len({colour for colour, _ in groups}) < 2:
            continue
        means = sorted((ColourMean(colour=colour, mean=g.mean, n=g.n, at_least=g.at_least, at_most=g.at_most) for colour, g in groups), key=lambda x: x.mean)
        first = groups[0][1]
        ratio = means[-1].mean / means[0].mean if means[0].mean else float("nan")
        shown.append(LineSpread(study=first.study, test=first.test, label=first.label, unit=first.unit, means=means, ratio=ratio))
    return shown


def _reported(session: Session, material_id: str) -> Sequence[ReportedResult]:
    standing = select(ReportedResult).where(ReportedResult.material_id == material_id, ReportedResult.retracted_at.is_(None))
    return session.scalars(standing.order_by(ReportedResult.quantity, ReportedResult.entered_at, ReportedResult.id)).all()


def _moisture_lost(states: Iterable[SpoolState]) -> list[MoistureLost]:
    """What every weighed drying took out of spools of this material."""
    rows = []
    for f in states:
        for run in f.sessions:
            lost = f.lost_in(run.id)
            if lost is not None and run.ended_at is not None:
                hours = (run.ended_at - run.started_at).total_seconds() / 3600
                rows.append(MoistureLost(code=f.spool.code, spool_id=f.spool.id, lost=lost, at=run.ended_at, temperature=run.temperature or 0.0, hours=hours))
    return sorted(rows, key=lambda r: r.at, reverse=True)


def _record(session: Session, material: Material, claims: list[Claim]) -> list[RecordEntry]:
    """The latest first."""
    found = record_of(session, [material.id, *(c.id for c in claims)], 30)
    entries = [entry for own in found.values() for entry in reversed(own)]
    return sorted(entries, key=lambda e: e.at, reverse=True)
