"""Which tests measure the same property of a material, so that their rankings can be compared."""

from __future__ import annotations

_PROPERTIES: dict[str, tuple[tuple[str, str | None], ...]] = {
    "layer adhesion": (("tension", "upright"), ("torsion", "upright"), ("stepped-bending", "upright"), ("bending", "upright")),
    "strength along the lines": (("tension", "flat"), ("bending", "flat"), ("stepped-bending", "flat")),
    "toughness": (("impact", "flat"), ("impact-izod", "flat"), ("impact-d256", "flat")),
    "toughness between the layers": (("impact", "upright"), ("impact-izod", "upright"), ("impact-d256", "upright")),
    "heat resistance": (("heat-ramp", None), ("deflection-temperature", None)),
}
"""By property: method, and orientation where it makes the property another one."""

PART = "functional-part"
"""The test of a part in use, which the tests of specimens are to foretell."""


def property_of(method: str, orientation: str) -> str | None:
    """The property that a method measures in an orientation; None where no other method measures it."""
    for name, tests in _PROPERTIES.items():
        if (method, orientation) in tests or (method, None) in tests:
            return name
    return None
