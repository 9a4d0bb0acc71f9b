"""Conversions between rigs that a person accepted."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.stats.agreement import Agreement
from assayer.services.findings.rig_views import ConversionView
from assayer.store.models import RigConversion


def conversion_key(c: RigConversion) -> tuple[str, ...]:
    """Method, orientation, shape, conditions, quantity, and how the specimens ended."""
    return c.method, c.orientation, c.shape, c.protocol, c.quantity, c.ended


def conversion_view(c: RigConversion) -> ConversionView:
    return ConversionView(
        id=c.id, slope=c.slope, intercept=c.intercept, low=c.low, high=c.high, n=c.n, note=c.note, who=c.who, accepted_at=c.accepted_at,
        retracted=c.retracted_at is not None, revision=c.revision,
    )  # fmt: skip


def conversions_to(session: Session, rig_version_id: str, of: Sequence[str]) -> dict[tuple[str, str], RigConversion]:
    """By the rig version that they convert from and how the specimens ended, those accepted to a rig version.

    `of`: method, orientation, shape, conditions and quantity.
    """
    accepted = session.scalars(select(RigConversion).where(RigConversion.to_version_id == rig_version_id, RigConversion.retracted_at.is_(None)))
    return {(c.from_version_id, c.ended): c for c in accepted if conversion_key(c)[:5] == tuple(of)}


def agreement_of(c: RigConversion) -> Agreement:
    """The line as it was accepted."""
    return Agreement(c.slope, c.intercept, c.se_slope, c.se_intercept, c.covariance, c.s, c.n, c.low, c.high)
