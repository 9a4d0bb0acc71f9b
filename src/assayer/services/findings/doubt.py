"""A doubt while it is worked out."""

from __future__ import annotations

from dataclasses import dataclass

from assayer.services.findings.doubt_views import DoubtKind, DoubtSpecimen
from assayer.services.studies.evidence_groups import Dot


@dataclass(frozen=True, slots=True)
class Doubt:
    """An anomaly, what it is about, and what could settle it.

    Attributes
    ----------
    about : str
        What tells it from others of its kind in the same test: an arm, a run, a rig.
    arm_ids : tuple of str
        Whose results are in doubt; empty: those of all.
    retest : tuple of str
        The arms of which further specimens would say more.
    """

    kind: DoubtKind
    about: str
    text: str
    remedy: str
    test_id: str | None = None
    quantity: str = ""
    arm_ids: tuple[str, ...] = ()
    specimens: tuple[DoubtSpecimen, ...] = ()
    retest: tuple[str, ...] = ()
    material_id: str | None = None
    rig_id: str | None = None
    spool_id: str | None = None

    @property
    def key(self) -> str:
        return "|".join((self.kind, self.test_id or "", self.quantity, self.about))


def specimens_of(dots: list[Dot]) -> tuple[DoubtSpecimen, ...]:
    return tuple(DoubtSpecimen(run_id=d.run_id, specimen_id=d.specimen_id, code=d.code) for d in dots)


def apart_words(relative: float | None, lower: bool) -> str:
    """ "12 % below"; without a share, where a percentage has no meaning."""
    side = "below" if lower else "above"
    return side if relative is None else f"{abs(100 * relative):.0f} % {side}"


def codes_in_words(codes: list[str]) -> str:
    """The codes of up to three specimens."""
    return ", ".join(codes[:3]) + (f" and {len(codes) - 3} more" if len(codes) > 3 else "")
