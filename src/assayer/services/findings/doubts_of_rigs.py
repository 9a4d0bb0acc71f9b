"""What is doubtful because of a rig: its reference material has moved since earlier studies."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from assayer.core.quantities.words import in_text
from assayer.services.findings.doubt import Doubt
from assayer.services.findings.doubt_views import DoubtKind
from assayer.services.findings.rig_drift import charts_of
from assayer.services.studies.evidence_groups import Evidence
from assayer.store.models import Material, Rig, RigVersion


def doubts_of_drift(session: Session, evidence: Sequence[Evidence]) -> Iterator[Doubt]:
    """Tests in which the reference material of their rig shows that it has drifted."""
    used = {key[1] for e in evidence for key in e.keys.values() if key[1]}
    versions = session.scalars(
        select(RigVersion)
        .join(Rig, Rig.id == RigVersion.rig_id)
        .where(RigVersion.id.in_(used), Rig.reference_material_id.is_not(None))
        .options(joinedload(RigVersion.rig))
        .order_by(RigVersion.id)
    ).all()
    shown = {e.test.id: e for e in evidence}
    for version in versions:
        material = session.get(Material, version.rig.reference_material_id)
        if material is None or not any(a.variant.material_id == material.id for e in evidence for a in e.arms):
            continue
        for chart in charts_of(session, version, material):
            for point in chart.points:
                e = shown.get(point.test_id)
                if point.signal is not None and e is not None and chart.quantity.name == e.quantity:
                    yield Doubt(
                        DoubtKind.DRIFT, version.id,
                        f"{version.rig.name}: {in_text(chart.quantity.label)} of its reference material is {point.signal}, over {len(chart.points)} studies",
                        "check the rig's calibration, and lot and moisture of the reference material, then test it again", e.test.id, e.quantity,
                        rig_id=version.rig_id,
                    )  # fmt: skip
