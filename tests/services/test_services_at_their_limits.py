"""Services where a rule says "more than" or "after": the limit itself and just beside it; and what nothing had reached."""

from datetime import timedelta
from types import SimpleNamespace

import pytest

from assayer.core.errors import EntryError, QuestionError
from assayer.core.filament.moisture import open_limit
from assayer.core.stats.groups import Interval, summarise
from assayer.core.stats.weibull import Weibull
from assayer.services import changes
from assayer.services.bench import many, queue
from assayer.services.day import sheet
from assayer.services.dial_in.requests import FilamentIn
from assayer.services.sessions import drying
from assayer.services.stock import spools
from assayer.services.stock.requests import NewFilamentUse, NewWeighing
from assayer.services.studies import changing, listing
from assayer.services.studies.evidence_groups import with_bounds_in
from assayer.services.studies.fairness import moisture_word
from assayer.services.studies.requests import StudyEdit, StudyExtension
from assayer.store.models import Spool

from ..conftest import NOW
from ..support import ACTOR, AT, new_id
from .stockroom import add_petg, ago, spool_of
from .test_limits_of_services import dried
from .test_towers_and_hardware import calibrate
from .trailhead import Trailhead


@pytest.fixture
def head(workspace):
    return Trailhead(workspace)


def test_a_study_is_wanted_by_a_day_and_the_record_says_since_when(lab):
    def wanted(by):
        return changing.edit_study(lab.workspace, ACTOR, lab.study.id, StudyEdit(wanted_by=by), listing.get_study(lab.workspace, lab.study.id).revision)

    def told():
        with lab.workspace.read() as session:
            own = [r for r in changes.record_of(session, [lab.study.id])[lab.study.id] if r.action == "wanted by"]
        return [(c.before, c.after) for r in own for c in r.changes]

    assert wanted(AT).wanted_by == AT
    assert wanted(AT).wanted_by == AT
    assert len(told()) == 1, "the same day is no change"
    assert wanted(None).wanted_by is None
    assert sorted(told(), key=str) == sorted([(None, AT.isoformat()), (AT.isoformat(), None)], key=str)


def test_spares_are_raised_for_tests_of_the_study_alone(lab):
    def extend(**more):
        study = listing.get_study(lab.workspace, lab.study.id)
        return changing.extend_study(lab.workspace, ACTOR, study.id, StudyExtension(reason="in case", **more), study.revision)

    assert extend(spares={lab.flat: 2}).tests[0].spares == 2
    for wrong in ({"spares": {new_id(): 2}}, {"replicates": {new_id(): 9}}):
        with pytest.raises(EntryError, match="no such test"):
            extend(**wrong)


def test_a_weighing_may_exceed_the_book_by_what_scales_do(workspace):
    spool = spool_of(workspace)

    def weigh(gross, **more):
        return spools.weigh(workspace, ACTOR, spool.id, NewWeighing(id=new_id(), raw=str(gross), at=NOW - timedelta(hours=1), **more))

    with pytest.raises(QuestionError, match="more than the book holds"):
        weigh(964 + spools._ASIDE + 0.1)
    weigh(964 + spools._ASIDE)


def test_a_print_may_take_all_that_is_left(workspace):
    spool = spool_of(workspace)
    left = spools.get_spool(workspace, spool.id).left

    def take(mass):
        return spools.take_filament(workspace, ACTOR, spool.id, NewFilamentUse(id=new_id(), raw=f"{mass:g}", at=NOW - timedelta(hours=1), what="hook"))

    with pytest.raises(QuestionError, match="more than the"):
        take(left + 1)
    assert take(left)[0].left == pytest.approx(0)


def test_a_drying_without_a_change_of_mass_is_no_question_and_much_is():
    def asked(before, after, empty=200.0):
        facts = SimpleNamespace(masses_of=lambda _: (before and SimpleNamespace(gross=before), None), spool=SimpleNamespace(code="S1", empty=empty))
        return drying._odd_loss(facts, "run", after)

    assert asked(1000.0, 1000.0) is None
    assert "gained" in asked(1000.0, 1000.1).text
    assert asked(None, 900.0) is None
    assert asked(1000.0, 200.0) is None
    assert asked(1000.0, 100.0, empty=None) is None
    # the loss is a share of what is dry
    assert asked(1040.0, 1000.0) is None, "a twentieth of 800 g"
    assert "lost 5.1%" in asked(1041.0, 1000.0).text


def test_a_spool_may_lie_open_for_as_long_as_its_polymer_bears():
    limit = open_limit("PETG")

    def word(kind, hours):
        state = SimpleNamespace(
            spool=SimpleNamespace(material=SimpleNamespace(polymer="PETG")), moisture_at=lambda _: SimpleNamespace(kind=kind, open_hours=hours)
        )
        return moisture_word(state, AT)

    assert [word(kind, limit) for kind in ("dried", "drying", "open", "as delivered")] == ["dry", "dry", "as delivered", "as delivered"]
    assert [word(kind, limit + 0.1) for kind in ("dried", "open", "as delivered")] == ["open too long after drying", "open, never dried", "as delivered"]


def test_a_mean_takes_bounds_in_from_two_values_on():
    fitted = Weibull(10.0, 42.0, 40.0, Interval(38.0, 43.0))
    two = with_bounds_in(summarise([39.0, 41.0]), fitted)
    assert (two.mean, two.ci95) == (40.0, Interval(38.0, 43.0))
    assert with_bounds_in(summarise([39.0]), fitted) == summarise([39.0])
    endless = Weibull(10.0, 42.0, 40.0, Interval(38.0, float("inf")))
    bound = with_bounds_in(summarise([39.0, 41.0]), endless)
    assert (bound.mean, bound.ci95, bound.error) == (38.0, None, summarise([39.0, 41.0]).error), "at least its lower limit"


def test_a_spool_that_came_a_week_ago_is_due_and_later_it_is_late(workspace):
    page = spool_of(workspace)

    def state(age):
        with workspace.write(ACTOR) as unit:
            spool = unit.session.get(Spool, page.id)
            spool.decision, spool.created_at = None, NOW - age
            unit.log("spool", page.id, "made unchecked")
        return [i.state for i in sheet.day_sheet(workspace).items if i.kind == "intake"]

    assert state(timedelta(days=7)) == ["due"]
    assert state(timedelta(days=7, seconds=1)) == ["late"]


def test_a_spool_that_was_dried_since_makes_a_calibration_old(head):
    head.record(1, spool_id=head.spool.id)
    calibrate(head, 1, "pressure advance", advance=0.04, at=ago(9))
    assert head.view.calibrations[0].stale == []
    dried(head.workspace, head.spool, 14, 6)
    (stale,) = head.view.calibrations[0].stale
    assert stale.startswith("the spool was dried since, on ")


def test_filaments_of_a_trial_are_those_last_told(head):
    red, blue = (add_petg(head.workspace, colour=c) for c in ("red", "blue"))
    for colour, mass in ((red, 4.0), (blue, 3.0)):
        told = head.record(1, total_mass=20.0, bond="bond", filaments=[FilamentIn(material_id=colour, part_mass=mass, purge_mass=0.5)])
    assert [(f.material.colour, f.part_mass) for f in told.trials[0].filaments] == [("blue", 3)]
    assert head.record(1, total_mass=20.0, filaments=[]).trials[0].filaments == []


def test_a_station_takes_another_specimen_and_leaves_the_first(lab):
    first, second = lab.specimens(lab.flat, lab.arms[0])[:2]

    def held(by):
        return {i.specimen_id: i.held_by for i in queue.queue(lab.workspace, lab.flat, by, blind=False).items if i.held_by}

    assert queue.take_lease(lab.workspace, ACTOR, first, "left").held_by is None
    assert queue.take_lease(lab.workspace, ACTOR, first, "left").held_by is None, "again the same"
    assert queue.take_lease(lab.workspace, ACTOR, first, "right").held_by == "left"
    assert held("right") == {first: "left"}
    queue.take_lease(lab.workspace, ACTOR, second, "left")
    assert held("right") == {second: "left"}
    assert queue.take_lease(lab.workspace, ACTOR, first, "right").held_by is None
    assert held("left") == {first: "right"}


def test_parts_of_a_file_have_ids_of_their_own_in_a_row():
    key = "0198f0c2-7000-7000-8000-00000000000a"
    made = [many._id_of_part(key, k) for k in range(3)]
    assert made == ["0198f0c2-7000-7000-8000-00000000000a", "0198f0c2-7000-7000-8000-00000000000b", "0198f0c2-7000-7000-8000-00000000000c"]
    # the chance wraps round and touches neither instant nor kind
    assert many._id_of_part("0198f0c2-7000-7000-bfff-ffffffffffff", 1) == "0198f0c2-7000-7000-8000-000000000000"
