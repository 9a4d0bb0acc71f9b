"""A bar on two supports: stress, strain and what is remarked of its span (METHODS 5, ISO 178)."""

from __future__ import annotations

from assayer.core.methods.sections import Section
from assayer.core.methods.steps import Field

LARGE = 0.1
"""Deflection over span, above which the plain formula reads too high a stiffness."""
USUAL_SPAN = (15.0, 17.0)
"""Span over thickness of the standard, 16 ± 1."""

SPAN = Field("span", "span", "length", usual=0, from_rig="span")


def flexural_stress(load: float, section: Section, span: float) -> float:
    """σ = 3FL / (2bh²), ISO 178, 9.1; N and mm to MPa."""
    return 3 * load * span / (2 * section.width * section.thickness**2)


def flexural_strain(deflection: float, section: Section, span: float) -> float:
    """ε = 6sh / L², ISO 178, 9.2; mm to mm/mm."""
    return 6 * deflection * section.thickness / span**2


def odd_span(span: float, thickness: float) -> list[str]:
    """A remark where the span is not that of the standard."""
    ratio = span / thickness
    if USUAL_SPAN[0] <= ratio <= USUAL_SPAN[1]:
        return []
    return [f"the span is {ratio:.1f} times the thickness, not 16 ± 1: an own method, comparable with itself"]


def deflected_far(deflection: float, span: float) -> list[str]:
    """A remark where the plain formula no longer holds."""
    if deflection <= LARGE * span:
        return []
    return [f"deflected by more than a tenth of the span ({LARGE * span:.2g} mm): stress and modulus there read off the plain formula are too low"]
