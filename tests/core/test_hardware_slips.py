"""Properties of printers and nozzles are asked about beyond what the trade sells, not at its ends; a slipped decimal mark is named."""

import pytest

from assayer.core.filament.hardware_slips import USUAL, questions_hardware

SOLD = {
    "diameter": (0.1, 2), "nozzle": (0.1, 2), "strand": (1.5, 3.2), "holder": (5, 150), "nozzle_hottest": (180, 520), "bed_hottest": (40, 220),
    "chamber_hottest": (30, 250), "build_x": (50, 2000), "build_y": (50, 2000), "build_z": (50, 2000), "acceleration": (100, 60000),
}  # fmt: skip
"""Smallest and largest that is common; general knowledge of the trade."""


@pytest.mark.parametrize("field", sorted(SOLD))
def test_what_is_sold_is_not_asked_about_and_what_is_beyond_is(field):
    low, high = SOLD[field]
    assert questions_hardware({field: low}) == questions_hardware({field: high}) == []
    assert [q.field for value in (low * 0.99, high * 1.01) for q in questions_hardware({field: value})] == [field, field]


def test_every_field_with_a_range_is_held_here_and_others_are_passed_over():
    assert SOLD.keys() == USUAL.keys()
    assert questions_hardware({"nozzle": None, "margin": 1e6}) == []
    assert [q.likely for q in questions_hardware({"diameter": 4.0, "build_z": 2.5})] == ["0.4", "250"]
