"""Rankings that rest on so few specimens that their differences are provisional."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.quantities.words import and_words
from assayer.core.stats.relative import FEW
from assayer.services.findings.doubt import Doubt
from assayer.services.findings.doubt_views import DoubtKind
from assayer.services.parts.shapes import title_of
from assayer.services.studies.evidence_groups import Evidence
from assayer.store.models import Purpose, PurposeCriterion


def doubts_of_purposes(session: Session, evidence: Sequence[Evidence], names: Mapping[str, str]) -> Iterator[Doubt]:
    """Of each test that a purpose ranks by, the arms with two specimens or fewer; derived quantities rest on the same ones."""
    by_test = {e.test.id: e for e in evidence}
    criteria = (
        select(Purpose.id, Purpose.title, PurposeCriterion.test_id)
        .join(PurposeCriterion, PurposeCriterion.purpose_id == Purpose.id)
        .where(PurposeCriterion.test_id.in_(by_test), PurposeCriterion.weight > 0)
        .distinct()
        .order_by(Purpose.title, Purpose.id, PurposeCriterion.test_id)
    )
    for purpose_id, title, test_id in session.execute(criteria):
        e = by_test[test_id]
        few = [a.id for a in e.arms if (g := e.groups().get(a.id)) is not None and g.n <= FEW]
        if few and not e.method.quantity(e.quantity).graded:
            which = and_words([names[a] for a in few])
            yield Doubt(
                DoubtKind.PROVISIONAL, purpose_id,
                f"the ranking “{title}” rests on {title_of(e.test)} of {which}, of which {FEW} specimens or fewer count: their differences are provisional",
                "test further specimens before you decide by it", e.test.id, e.quantity, tuple(few), (), tuple(few),
            )  # fmt: skip
