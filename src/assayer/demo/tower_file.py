"""A small writer of G-code for the tower: outlines, a second wall and bridges, slowed where a layer is small."""

from __future__ import annotations

from dataclasses import dataclass, field

from assayer.core.filament.bead import bead_section

_STRAND = 3.14159265 * (1.75 / 2) ** 2
_LEAST_LAYER = 9.0
"""s; a layer that would be quicker is printed slower, which is what makes the outer wall uneven."""


@dataclass(slots=True)
class _Lines:
    width: float
    height: float
    text: list[str] = field(default_factory=list)
    at: tuple[float, float] = (0.0, 0.0)

    def travel(self, x: float, y: float) -> None:
        self.text += ["G1 E-0.8 F1800", f"G1 X{x:.3f} Y{y:.3f} F7200", "G1 E0.8 F1800"]
        self.at = (x, y)

    def lay(self, x: float, y: float, speed: float) -> None:
        length = ((x - self.at[0]) ** 2 + (y - self.at[1]) ** 2) ** 0.5
        drawn = length * bead_section(self.width, self.height) / _STRAND
        self.text.append(f"G1 X{x:.3f} Y{y:.3f} E{drawn:.5f} F{speed * 60:.0f}")
        self.at = (x, y)

    def box(self, x: float, y: float, wide: float, deep: float, speed: float) -> None:
        self.travel(x, y)
        for to in ((x + wide, y), (x + wide, y + deep), (x, y + deep), (x, y)):
            self.lay(*to, speed)


def tower_gcode(bands: int, band_height: float, base_height: float, nozzle: tuple[float, float], bed: float, layer: float = 0.28, width: float = 0.66) -> bytes:
    """A sliced tower: two columns, a bridge at the top of each band, on a base; the nozzle for the first layer and for the rest."""
    out = _Lines(width, layer)
    out.text += [
        "; two columns and bridges",
        "G21",
        "G90",
        "M83",
        f"M140 S{bed:g}",
        f"M104 S{nozzle[0]:g}",
        "G28",
        f"M190 S{bed:g}",
        f"M109 S{nozzle[0]:g}",
        "G92 E0",
        "M107",
    ]
    total = round((base_height + bands * band_height) / layer)
    for n in range(1, total + 1):
        z = n * layer
        out.text.append(f"G1 Z{z:.3f} F600")
        if n == 2:
            out.text.append(f"M104 S{nozzle[1]:g}")
        if n == 3:
            out.text.append("M106 S77")
        in_band = (z - base_height) % band_height
        is_base, has_bridge = z <= base_height + 1e-6, z > base_height and in_band > band_height - 1.2
        wide = 2 * (14 + 14) + 2 * (8 + 14)
        length = 2 * (48 + 14) + 12 * 48 if is_base else 2 * wide + (20 * 20 if has_bridge else 0)
        share = min(1.0, max(0.3, length / 38 / _LEAST_LAYER))
        _layer(out, is_base, has_bridge, 40 * share, 40 * share)
    out.text += ["M107", "G1 E-2 F1800", "M104 S0", "M140 S0", ""]
    return "\n".join(out.text).encode()


def _layer(out: _Lines, is_base: bool, has_bridge: bool, wall: float, inner: float) -> None:
    w = out.width
    if is_base:
        out.box(100 + w, 100 + w, 48 - 2 * w, 14 - 2 * w, inner)
        out.box(100, 100, 48, 14, wall)
        rows = 12
        for i in range(rows):
            y = 100 + 2 * w + i * (14 - 4 * w) / (rows - 1)
            ends = (100 + 2 * w, 148 - 2 * w) if i % 2 == 0 else (148 - 2 * w, 100 + 2 * w)
            out.travel(ends[0], y)
            out.lay(ends[1], y, inner)
        return
    for x, wide in ((100, 14), (134, 8)):
        out.box(x + w, 100 + w, wide - 2 * w, 14 - 2 * w, inner)
        out.box(x, 100, wide, 14, wall)
    if has_bridge:
        for i in range(10):
            ends = (114, 134) if i % 2 == 0 else (134, 114)
            out.travel(ends[0], 103 + i * 0.8)
            out.lay(ends[1], 103 + i * 0.8, inner)
