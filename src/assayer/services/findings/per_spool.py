"""How many pieces a spool gives, and what one costs, by the pieces that were weighed in a test."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.filament.mass import pieces_of
from assayer.services.findings.views import PerSpool
from assayer.services.studies.evidence import load_evidence
from assayer.services.studies.evidence_groups import Evidence
from assayer.store.models import Arm, Material, Variant


def per_spool(session: Session, evidence: Evidence) -> dict[str, PerSpool]:
    """By arm: from the mean mass of the pieces that count; nothing where none was weighed, or a spool's mass is not known."""
    weighed = next((q.name for q in evidence.method.quantities if q.of_piece), None)
    if weighed is None:
        return {}
    masses = (
        evidence.groups()
        if evidence.quantity == weighed
        else load_evidence(session, [evidence.test], evidence.arms, {evidence.test.id: weighed})[evidence.test.id].groups()
    )
    materials = select(Arm.id, Material.net_mass, Material.price, Material.currency).join(Variant, Variant.id == Arm.variant_id)
    found = {}
    for arm_id, net, price, currency in session.execute(materials.join(Material, Material.id == Variant.material_id).where(Arm.id.in_(list(masses)))):
        if net:
            pieces = pieces_of(net, masses[arm_id].mean, price)
            found[arm_id] = PerSpool(pieces=pieces.count, net=net, cost=pieces.cost, currency=currency)
    return found
