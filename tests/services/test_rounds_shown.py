"""What rounds show and ask: the next reading, the display of the rack, jumps, the room, the fit."""

from datetime import timedelta

import pytest

from assayer.core.errors import QuestionError
from assayer.services.day import sheet
from assayer.services.rigs import rigs
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Workspace

from ..conftest import NOW
from ..support import ACTOR, channel, new_id, rig
from .loft import HOUR, Loft


@pytest.mark.parametrize(
    "after, left, said",
    [
        (10, {"minutes": 119}, "119 min"),
        (10, {"minutes": 120}, "2 h"),
        (10, {"hours": 5, "minutes": 20}, "5 h"),
        (100, {"hours": 47, "minutes": 59}, "48 h"),
        (100, {"hours": 48}, "2 days"),
        (100, {"hours": 95}, "4 days"),
    ],
)
def test_the_day_sheet_says_how_long_until_the_next_round(data_folder, clock, after, left, said):
    workspace = Workspace(data_folder, clock, durable=False)
    slow = {"load": 24.0, "horizon": after * 3600.0, "due": [60, after * 3600.0], "recovery_due": [360]}
    loft = Loft(workspace, clock, [NewTest(id=new_id(), method="creep", orientation="flat", replicates=2, protocol=slow)])

    def text():
        return next(i.text for i in sheet.day_sheet(workspace).items if i.kind == "round")

    one = loft.hang()
    assert text() == "1 on it: load or unload them"
    loft.load(one)
    loft.read(one, 1 / 60, "2040", 0)
    clock.now = NOW + after * HOUR - timedelta(**left)
    assert text() == f"1 under load, the next reading in {said}"
    clock.now = NOW + after * HOUR
    assert text() == "1 of 1 are to be read"
    workspace.close()


def test_a_rack_shows_its_gaps_as_its_own_display_does(data_folder, clock):
    """A rack in inches: what is typed, shown and asked about is inches; what is computed is mm."""
    workspace = Workspace(data_folder, clock, durable=False)
    loft = Loft(workspace, clock)
    shown = [channel("gap", "in", 0.001, high=6)]
    inches = rigs.add_rig(workspace, ACTOR, rig(name="Inch rack", methods=["creep"], channels=shown, places=2))[0]
    loft.sessions[inches.id] = new_id()
    new = loft.hang(rack=inches)
    loft.load(new, unloaded="0.787")
    loft.read(new, 1 / 60, "0.803", 0)
    rack = loft.view(inches)
    assert (rack.unit, rack.step) == ("in", 0.001)
    member = rack.members[0]
    assert member.unloaded == pytest.approx(0.787)
    assert [p.value for p in member.course] == [pytest.approx(0.803)]
    kept = loft.read(new, 10, "0.806", 3, complete=True, outcome="carried")
    found = {r.quantity: r.value for r in kept.results}
    assert found["deformation_on_loading"] == pytest.approx(0.016 * 25.4)
    assert found["creep_at_horizon"] == pytest.approx(0.003 * 25.4)
    workspace.close()


@pytest.mark.parametrize(
    "raw, likely, words",
    [
        ("20500", "20.5", "jumps"),
        ("205", "20.5", "runs backwards"),
        ("2031", None, "runs backwards"),
        ("2038", "", ""),
        ("2300", None, "jumps"),
        ("2130", "", ""),
    ],
)
def test_a_gap_that_jumps_or_runs_back_is_asked_about_with_what_was_likely_meant(loft, raw, likely, words):
    """From 20.40 mm: three reading steps back are a reading's play; a first growth by a twentieth is no jump."""
    new = loft.hang()
    loft.load(new)
    loft.read(new, 1 / 60, "2040", 0)
    if likely == "":
        loft.read(new, 1, raw, 1)
        return
    with pytest.raises(QuestionError, match=words) as asked:
        loft.read(new, 1, raw, 1)
    assert [q.likely for q in asked.value.questions] == [likely]


@pytest.mark.parametrize("warm, marked", [(25.5, 0), (25.8, 1)])
def test_a_frame_that_hung_in_another_room_is_marked_beside_the_mean(loft, warm, marked):
    """Two at 21 °C and one warmer: marked when it is more than 3 °C off the mean of the three."""
    for place, ambient in enumerate((21.0, 21.0, warm)):
        loft.clock.now = NOW
        loft.through(loft.hang(place), ambient=ambient)
    notes = [n for n in loft.cell(loft.tests[0], loft.arms[0]).notes if "the room was" in n]
    assert len(notes) == marked, notes
    assert all(f"the room was {warm:.1f} °C, {(42 + warm) / 3:.1f} °C for all" in n for n in notes)


def test_a_fitted_course_gives_its_creep_with_an_interval_and_the_fit_its_three_numbers(data_folder, clock):
    """Findley of made-up readings: 20 + 0.30 + 0.25·t^0.3 mm (t in days), read to 0.01 mm, horizon 24 h."""
    workspace = Workspace(data_folder, clock, durable=False)
    hours = (1 / 60, 0.5, 2, 6, 12, 24)
    plan = {"load": 24.0, "horizon": 86_400.0, "due": [h * 3600 for h in hours], "recovery_due": [360]}
    loft = Loft(workspace, clock, [NewTest(id=new_id(), method="creep", orientation="flat", replicates=2, protocol=plan)])
    new = loft.hang()
    loft.load(new)
    for i, h in enumerate(hours):
        raw = f"{100 * (20.30 + 0.25 * (h / 24) ** 0.3):.0f}"
        kept = loft.read(new, h, raw, i, **({"complete": True, "outcome": "carried"} if h == 24 else {}))
    found = {r.quantity: r for r in kept.results}
    creep = found["creep_at_horizon"]
    low, high = creep.interval
    assert low < creep.value < high
    assert creep.value == pytest.approx(0.25 * (1 - (1 / 60 / 24) ** 0.3), abs=0.012)
    assert found["findley_n"].value == pytest.approx(0.3, abs=0.06)
    assert found["findley_n"].interval is None
    assert found["deformation_on_loading"].interval is None
    workspace.close()
