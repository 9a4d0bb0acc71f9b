"""Density by immersion (after ISO 1183-1), and the void share it bounds (METHODS 11)."""

from __future__ import annotations

from dataclasses import dataclass

from assayer.core.errors import EntryError


@dataclass(frozen=True, slots=True)
class ImmersionDensity:
    """Density in g/cm³; `void_share` is a lower bound (open pores fill), None without a solid density."""

    density: float
    void_share: float | None


def density_by_immersion(in_air: float, in_liquid: float, liquid: float, solid: float | None = None) -> ImmersionDensity:
    """m_air·ρ_liq/(m_air − m_liq), and 1 − ρ/ρ_solid.

    Parameters
    ----------
    in_air, in_liquid : float, g
        Mass in air, and apparent mass in the liquid; a specimen that floats is weighed with a sinker, its own
        apparent mass is then negative.
    liquid, solid : float, g/cm³

    Raises
    ------
    EntryError
        If the specimen would lose no mass in the liquid.
    """
    if in_air <= 0:
        raise EntryError(f"mass in air {in_air:g} g: it must be above 0", "in_air")
    if in_liquid >= in_air:
        raise EntryError(f"{in_liquid:g} g in the liquid is not below {in_air:g} g in air: were the two exchanged?", "in_liquid")
    density = in_air * liquid / (in_air - in_liquid)
    return ImmersionDensity(density, None if solid is None else 1 - density / solid)
