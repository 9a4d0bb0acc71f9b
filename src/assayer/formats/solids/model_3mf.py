"""Named solids on one plate as a 3MF file (core specification): millimetres, one object each, the same bytes every time."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from xml.sax.saxutils import quoteattr

from assayer.core.shapes.solids import Solid

_MODEL = "3D/3dmodel.model"
_CONTENT_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>\n'
)
_RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    f'<Relationship Id="model" Target="/{_MODEL}" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>\n'
)
_NAMESPACE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"


@dataclass(frozen=True, slots=True)
class Placed:
    """A solid by its name, and where its own origin stands on the plate, mm."""

    name: str
    solid: Solid
    x: float = 0.0
    y: float = 0.0


def write_3mf(pieces: Sequence[Placed]) -> bytes:
    """The file's bytes; the same solid placed several times is kept once."""
    objects: dict[tuple[int, str], int] = {}
    resources, items = [], []
    for piece in pieces:
        key = (id(piece.solid), piece.name)
        if key not in objects:
            objects[key] = len(objects) + 1
            resources.append(_object(objects[key], piece))
        place = f' transform="1 0 0 0 1 0 0 0 1 {piece.x:.6g} {piece.y:.6g} 0"' if piece.x or piece.y else ""
        items.append(f'<item objectid="{objects[key]}"{place}/>')
    model = (
        f'<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en" xmlns="{_NAMESPACE}">\n'
        f"<resources>\n{''.join(resources)}</resources>\n<build>{''.join(items)}</build>\n</model>\n"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for name, text in (("[Content_Types].xml", _CONTENT_TYPES), ("_rels/.rels", _RELATIONS), (_MODEL, model)):
            # without the moment it was made, so that equal solids make equal files
            package.writestr(zipfile.ZipInfo(name), text, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _object(number: int, piece: Placed) -> str:
    corners = "".join(f'<vertex x="{x:.9g}" y="{y:.9g}" z="{z:.9g}"/>' for x, y, z in piece.solid.corners.tolist())
    triangles = "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in piece.solid.triangles.tolist())
    mesh = f"<mesh><vertices>{corners}</vertices><triangles>{triangles}</triangles></mesh>"
    return f'<object id="{number}" type="model" name={quoteattr(piece.name)}>{mesh}</object>\n'
