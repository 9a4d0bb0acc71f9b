"""A label with a code, its QR code and a swatch, as SVG in millimetres."""

from __future__ import annotations

from dataclasses import dataclass, field
from xml.sax.saxutils import escape, quoteattr

import segno

WIDTH, HEIGHT = 62.0, 29.0
"""mm; what a label takes on the sheet."""

_INK = "#1F2330"
_SANS = "'Atkinson Hyperlegible Next',Helvetica,Arial,sans-serif"


@dataclass(frozen=True, slots=True)
class Label:
    """What stands on a label: the code large, up to three lines, a swatch where a material is meant."""

    code: str
    url: str
    lines: list[str] = field(default_factory=list)
    hex: str | None = None
    mark: str = ""
    filled: bool = False


def label_svg(label: Label) -> str:
    """One label; the QR code holds the URL, at error level M, with its quiet zone."""
    qr = segno.make_qr(label.url, error="m")
    size = 22.0
    modules = qr.symbol_size(border=4)[0]
    step = size / modules
    dark = "".join(f"M{x} {y}h1v1h-1z" for y, row in enumerate(qr.matrix_iter(border=4)) for x, bit in enumerate(row) if bit)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH}mm" height="{HEIGHT}mm" viewBox="0 0 {WIDTH} {HEIGHT}" role="img" '
        f'aria-label={quoteattr(" ".join([label.code, *label.lines]))} font-family="\'Atkinson Hyperlegible Next\',Helvetica,Arial,sans-serif" fill="{_INK}">',
        f'<rect width="{WIDTH}" height="{HEIGHT}" fill="#FFFFFF"/>',
        f'<path transform="translate({WIDTH - size - 1} 3.5) scale({step:.5f})" d="{dark}" shape-rendering="crispEdges"/>',
        f'<text x="3" y="9.6" font-size="8" font-weight="700" letter-spacing=".4" font-family="\'Atkinson Hyperlegible Mono\',monospace">{label.code}</text>',
    ]
    for i, line in enumerate(label.lines[:3]):
        # long names are squeezed rather than cut
        room = f' textLength="{WIDTH - size - 6}" lengthAdjust="spacingAndGlyphs"' if len(line) > 24 else ""
        weight = ' font-weight="700"' if i == 0 else ""
        parts.append(f'<text x="3" y="{15.2 + 3.7 * i:.1f}" font-size="3"{weight}{room}>{escape(line)}</text>')
    if label.hex is not None:
        parts.append(_swatch(label))
    return "".join(parts) + "</svg>"


def _swatch(label: Label) -> str:
    x, y, r = 34.0, 6.8, 3.2
    hatch = (
        f'<clipPath id="c"><circle cx="{x}" cy="{y}" r="{r}"/></clipPath><g clip-path="url(#c)" stroke="{_INK}" stroke-width=".3" opacity=".55">'
        + "".join(f'<path d="M{x - 6 + k} {y + 4}l5 -8"/>' for k in range(0, 10, 1))
        + "</g>"
        if label.filled
        else ""
    )
    ink = _INK if _luminance(label.hex or "") > 0.2 else "#FFFFFF"
    mark = f'<text x="{x}" y="{y + 0.95}" font-size="2.7" font-weight="700" text-anchor="middle" fill="{ink}">{escape(label.mark)}</text>'
    middle = f'<circle cx="{x}" cy="{y}" r="{r * 0.62:.2f}" fill="{label.hex}"/>' if label.filled else ""
    return f'<circle cx="{x}" cy="{y}" r="{r}" fill="{label.hex}" stroke="{_INK}" stroke-width=".25"/>{hatch}{middle}{mark}'


def _luminance(hex_colour: str) -> float:
    """Relative luminance (WCAG 2.2)."""
    linear = []
    for at in (1, 3, 5):
        c = int(hex_colour[at : at + 2], 16) / 255
        linear.append(c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4)
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]
