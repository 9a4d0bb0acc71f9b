"""The printed bead, volumetric flow, and two ways to correct the flow (METHODS 11)."""

from __future__ import annotations

import math

from assayer.core.errors import EntryError


def bead_section(width: float, height: float) -> float:
    """Section of a bead with round flanks, mm²: (w − h)·h + π(h/2)².

    Parameters
    ----------
    width, height : float, mm
        Line width and layer height.

    Raises
    ------
    EntryError
        If the bead would be higher than wide.
    """
    if height <= 0:
        raise EntryError(f"layer height {height:g} mm: it must be above 0", "layer_height")
    if width < height:
        raise EntryError(f"line width {width:g} mm is below the layer height {height:g} mm: such a bead cannot be laid", "line_width")
    return (width - height) * height + math.pi * (height / 2) ** 2


def volumetric_flow(width: float, height: float, speed: float) -> float:
    """Volumetric flow in mm³/s of a bead laid at `speed` mm/s."""
    return bead_section(width, height) * speed


def flow_by_mass(old: float, volume: float, density: float, measured: float) -> float:
    """New flow from the mass of a solid block: old × volume·density / measured mass (cm³, g/cm³, g)."""
    if measured <= 0:
        raise EntryError(f"measured mass {measured:g} g: it must be above 0", "measured")
    return old * volume * density / measured


def flow_by_wall(old: float, line_width: float, wall: float) -> float:
    """New flow from the mean thickness of a single wall: old × line width / wall (mm)."""
    if wall <= 0:
        raise EntryError(f"wall {wall:g} mm: it must be above 0", "wall")
    return old * line_width / wall
