"""The density of water at its temperature.

References
----------
1. M. Tanaka, G. Girard, R. Davis, A. Peuto, N. Bignell, Recommended table for the density of water between 0 °C and 40 °C,
   Metrologia 38 (2001) 301–309: equations 1 (air-free) and 2 (saturated with air), at 101.325 kPa.
"""

from __future__ import annotations

from assayer.core.errors import EntryError


def density_of_water(temperature: float) -> float:
    """Density in g/cm³ of water saturated with air; `temperature` in °C, from 0 to 40.

    Raises
    ------
    EntryError
        Beyond 0 to 40 °C, for which the formula does not hold.
    """
    t = temperature
    if not 0 <= t <= 40:
        raise EntryError(f"the temperature of the water must lie between 0 and 40 °C, but got {t:g}", "water_temperature")
    air_free = 0.999974950 * (1 - (t - 3.983035) ** 2 * (t + 301.797) / (522528.9 * (t + 69.34881)))
    return air_free + (-4.612 + 0.106 * t) * 1e-6
