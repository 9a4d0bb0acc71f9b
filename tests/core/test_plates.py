"""Plates: nothing overlaps and nothing is lost, like lies with like; batches in random, interleaved order."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import chisquare

from assayer.core.errors import EntryError
from assayer.core.plan.plates import GAP, UNLIKE, Bed, Piece, interleaved, lay_out, layer_evenness, split

BED = Bed(220, 200, 250, margin=5, keep_out=((0, 0, 30, 12), (220, 200, 180, 150)), clearance=30, passes_over=25)
BAR, SHORT, UPRIGHT = Piece("bar", 80, 10, 4), Piece("short", 70, 12, 8), Piece("upright", 12, 12, 70, brim=5)


def rectangles(pieces, plate):
    """x0, y0, x1, y1 of each with its brim: computed apart from the layout."""
    found = []
    for p in plate:
        piece = pieces[p.piece]
        w, d = (piece.depth, piece.width) if p.turned else (piece.width, piece.depth)
        w, d = w / 2 + piece.brim, d / 2 + piece.brim
        found.append((p.x - w, p.y - d, p.x + w, p.y + d))
    return found


def apart(a, b):
    """How far two rectangles are apart along the axis on which they are farthest; negative where they overlap."""
    return max(b[0] - a[2], a[0] - b[2], b[1] - a[3], a[1] - b[3])


kinds = st.sampled_from([BAR, SHORT, UPRIGHT, Piece("long", 20, 205, 5), Piece("rail", 180, 12, 3), Piece("cube", 40, 40, 6), Piece("tall", 30, 20, 40)])


@settings(max_examples=60, deadline=None)
@given(st.lists(kinds, min_size=1, max_size=30), st.booleans())
def test_all_pieces_lie_once_within_the_bed_and_apart(pieces, one_by_one):
    plates = lay_out(pieces, BED, one_by_one)
    assert sorted(p.piece for plate in plates for p in plate) == list(range(len(pieces)))
    turned = {}
    for plate in plates:
        boxes = rectangles(pieces, plate)
        kept = [(0, 0, 30, 12), (180, 150, 220, 200)]
        for i, a in enumerate(boxes):
            assert min(a[:2]) >= BED.margin - 1e-6
            assert a[2] <= BED.width - BED.margin + 1e-6
            assert a[3] <= BED.depth - BED.margin + 1e-6
            assert all(apart(a, k) >= -1e-6 for k in kept)
            assert all(apart(a, b) >= (BED.clearance if one_by_one else GAP) - 1e-6 for b in boxes[i + 1 :])
        heights = [pieces[p.piece].height for p in plate]
        assert max(heights) <= UNLIKE * min(heights)
        high = [h > BED.passes_over for h in heights]
        assert not one_by_one or not any(high[:-1]), "what nothing passes over is printed last, alone of its kind"
        for p in plate:
            assert turned.setdefault(pieces[p.piece].kind, p.turned) == p.turned, "a shape lies the same way everywhere"
    assert all(not t for kind, t in turned.items() if kind != "long"), "and is turned only where it must be"
    assert turned.get("long", True)


def test_a_plate_is_filled_before_the_next_is_begun_and_lies_in_the_middle():
    plates = lay_out([BAR] * 40, Bed(220, 220, 250))
    # two bars side by side on 210 mm, 210 // 14 rows of them
    assert [len(p) for p in plates] == [30, 10]
    for plate in plates:
        boxes = np.array(rectangles([BAR] * 40, plate))
        assert np.allclose(boxes[:, :2].min(axis=0) + boxes[:, 2:].max(axis=0), 220)
    assert [p.piece for p in plates[0]] == list(range(30))
    # what is kept free behind leaves the middle free in depth only where it must
    one = lay_out([BAR], Bed(220, 220, 250, keep_out=((60, 100, 160, 120),)))[0][0]
    assert (one.x, one.y != 110) == (110, True)


def test_like_heights_lie_together_and_the_low_ones_come_first():
    pieces = [UPRIGHT, BAR, SHORT, BAR, UPRIGHT, Piece("thick", 80, 10, 6)]
    plates = lay_out(pieces, BED)
    assert [[pieces[p.piece].kind for p in plate] for plate in plates] == [["bar", "bar", "thick"], ["short"], ["upright", "upright"]]
    assert len(lay_out([UPRIGHT] * 3, BED, one_by_one=True)) == 3
    assert len(lay_out([UPRIGHT] * 3, BED)) == 1


@pytest.mark.parametrize(
    ("piece", "bed", "said"),
    [
        (
            Piece("frame, flat", 120, 120, 3),
            Bed(125, 220, 100),
            r"the frame, flat, 120 × 120 mm, does not fit on the bed of 125 × 220 mm with a margin of 5 mm",
        ),
        (Piece("bar, upright", 10, 4, 80, brim=5), Bed(220, 220, 79), "the bar, upright is 80 mm high, and the printer builds 79 mm"),
        (Piece("rod", 14, 14, 9, brim=8), Bed(30, 30, 79), r"with its brim of 8 mm"),
        (Piece("plate", 200, 100, 9), Bed(220, 220, 79, keep_out=((100, 100, 120, 120),)), "beside what is kept free"),
    ],
)
def test_what_is_larger_than_the_bed_is_refused_with_the_reason(piece, bed, said):
    with pytest.raises(EntryError, match=said) as error:
        lay_out([BAR, piece] if bed.width > 100 else [piece], bed)
    assert error.value.field == "bed"


def test_what_just_fits_is_laid():
    assert len(lay_out([Piece("frame", 210, 210, 100)], Bed(220, 220, 100))[0]) == 1
    assert lay_out([Piece("rail", 10, 250, 3)], Bed(270, 220, 100))[0][0].turned
    many = lay_out([Piece("dot", 2, 2, 2)] * 130, BED)
    assert [len(p) for p in many] == [120, 10]


def test_layers_are_even_where_all_pieces_are_of_one_height():
    assert layer_evenness([]) == 1
    assert layer_evenness([(4, 800), (4, 100)]) == 1
    # above 4 mm only the bar of 100 mm² is left of 900 mm²
    assert layer_evenness([(4, 800), (6, 100)]) == pytest.approx(1 / 9)
    assert layer_evenness([(4, 100), (6, 800)]) == pytest.approx(8 / 9)
    assert layer_evenness([(2, 10), (4, 20), (6, 30)]) == pytest.approx(0.5)


def test_replicates_are_dealt_out_in_turn():
    assert split([1, 2, 3, 4, 5]) == [[1, 3, 5], [2, 4]]
    assert split([7]) == [[7]]
    assert split([1, 2, 3, 4], 3) == [[1, 4], [2], [3]]
    assert split([]) == []


def test_batches_come_in_rounds_in_an_order_that_the_seed_gives():
    arms = ["a", "b", "c", "d"]
    order = interleaved(arms, {"a": 2, "b": 2, "c": 1, "d": 3}, 5)
    assert sorted(order) == [("a", 1), ("a", 2), ("b", 1), ("b", 2), ("c", 1), ("d", 1), ("d", 2), ("d", 3)]
    assert [n for _, n in order] == [1, 1, 1, 1, 2, 2, 2, 3]
    assert interleaved(arms[::-1], {"a": 2, "b": 2, "c": 1, "d": 3}, 5) == order, "however they came"
    assert len({tuple(interleaved(arms, dict.fromkeys(arms, 2), seed)) for seed in range(50)}) > 40
    assert interleaved([], {}, 1) == []


def test_no_arm_is_favoured_over_the_seeds():
    arms = [f"arm {i}" for i in range(6)]
    places = np.zeros((2, 6, 6))
    follows = np.zeros(6)
    for seed in range(1200):
        order = interleaved(arms, dict.fromkeys(arms, 2), seed)
        for place, (arm, n) in enumerate(order):
            places[n - 1, arms.index(arm), place % 6] += 1
        # the second round does not follow from the first
        follows[[a for a, n in order if n == 2].index(order[0][0])] += 1
    assert chisquare(places.reshape(-1, 6), axis=1).pvalue.min() > 1e-4
    assert chisquare(follows).pvalue > 1e-4
