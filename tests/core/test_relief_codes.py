"""Codes in relief: every symbol can be told from every other, they fit into their room, and what is sunk is what is drawn."""

from itertools import combinations

import numpy as np
import pytest
import trimesh
from manifold3d import CrossSection, OpType

from assayer.core.codes import SYMBOLS, make_code
from assayer.core.errors import EntryError
from assayer.core.shapes import SHAPES
from assayer.core.shapes.printed import printed, takes_code
from assayer.core.shapes.relief import LEAST_CELL, letters


def cells(strokes, cell):
    """The cells that strokes fill, counted from the lower left."""
    found = set()
    for s in strokes:
        for i in range(round(s.wide / cell)):
            assert s.tall == pytest.approx(cell, abs=0.05)
            found.add((round(s.x / cell) + i, round(s.y / cell)))
    return found


def test_every_symbol_is_told_from_every_other():
    drawn = {c: cells(letters(c, 3.0, 5.0), 1.0) for c in SYMBOLS}
    assert len(drawn) == 32
    for c, own in drawn.items():
        assert own <= {(x, y) for x in range(3) for y in range(5)}, c
        assert len({y for _, y in own}) == 5, "as tall as the others"
    for a, b in combinations(SYMBOLS, 2):
        assert len(drawn[a] ^ drawn[b]) >= 1, (a, b)
    # an L-like corner: seven cells, its foot and its stem where they are seen
    assert drawn["7"] == {(0, 4), (1, 4), (2, 4), (2, 3), (1, 2), (1, 1), (1, 0)}
    assert drawn["F"] == {(0, 4), (1, 4), (2, 4), (0, 3), (0, 2), (1, 2), (0, 1), (0, 0)}


def test_a_code_stands_in_one_line_or_two_in_the_middle_of_its_room():
    for room, tall, lines, cell in ((19.0, 5.0, 1, 1.0), (38.0, 5.0, 1, 1.0), (8.0, 5.0, 2, 5 / 11), (11.0, 30.0, 2, 1.0)):
        strokes = letters("H7KX4", room, tall)
        low = min(s.x for s in strokes), min(s.y for s in strokes)
        high = max(s.x + s.wide for s in strokes), max(s.y + s.tall for s in strokes)
        assert strokes[0].tall == pytest.approx(cell, abs=0.05)
        assert high[1] - low[1] == pytest.approx((6 * lines - 1) * cell, abs=0.05)
        assert low[0] >= -0.021
        assert high[0] <= room + 0.021
        assert (low[1] + high[1]) / 2 == pytest.approx(tall / 2)
        first = cells([s for s in strokes if s.y > tall / 2 - cell] if lines == 2 else strokes, cell) if cell == 1.0 else None
        assert first is None or len(first) > 10
    assert letters("H7KX4", 8.0, 11 * LEAST_CELL - 0.01) == [], "too fine to print"
    assert letters("H7KX4", 8.0, 11 * LEAST_CELL + 0.01)
    assert letters("H", 3 * LEAST_CELL + 0.01, 9)[0].tall == pytest.approx(LEAST_CELL, abs=0.05)


def test_what_is_sunk_into_a_bar_is_its_code():
    bar, code = SHAPES["bar"], make_code(lambda _: False)
    solid, _ = printed(bar, "flat", code=code)
    mesh = trimesh.Trimesh(solid.corners, solid.triangles)
    place = bar.number_place
    strokes = letters(code, place.room, place.tall)
    assert mesh.is_watertight
    squares = [CrossSection.square((s.wide, s.tall)).translate((s.x, s.y)) for s in strokes]
    drawn = CrossSection.batch_boolean(squares, OpType.Add).area()
    assert bar.volume * 1e3 - mesh.volume == pytest.approx(0.4 * drawn, rel=1e-5)
    floor = solid.corners[np.isclose(solid.corners[:, 2], bar.thickness - 0.4)]
    assert floor[:, 0].min() == pytest.approx(place.x - place.room / 2 + min(s.x for s in strokes))
    assert floor[:, 1].max() == pytest.approx(place.y - place.tall / 2 + max(s.y + s.tall for s in strokes))


def test_where_a_code_could_not_be_read_it_is_written_on():
    assert {n for n, s in SHAPES.items() if takes_code(s)} >= {"bar", "dumb-bell-1a", "notched-bar"}
    assert not takes_code(SHAPES["short-pull-bar"])
    for name in ("short-pull-bar", "shear-bar"):
        with pytest.raises(EntryError, match="write it on") as found:
            printed(SHAPES[name], "flat", code="H7KX4")
        assert found.value.field == "code"
