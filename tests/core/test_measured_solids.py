"""No solid changes unless somebody means it to: each as a second program measured it when its picture was looked at."""

import json

import pytest

from .measured_solids import RECORD, measured, solids

KNOWN = json.loads(RECORD.read_text("utf-8"))


def test_every_solid_is_as_it_was_measured():
    found = {name: measured(solid) for name, solid in solids()}
    assert found.keys() == KNOWN.keys()
    lengths = {name for name, values in found.items() if values[:11] != pytest.approx(KNOWN[name][:11], rel=1e-4, abs=2e-3)}
    spread = {name for name, values in found.items() if values[11:] != pytest.approx(KNOWN[name][11:], abs=5e-5)}
    assert (lengths, spread) == (set(), set())
