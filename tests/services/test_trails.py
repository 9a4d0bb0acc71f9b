"""Trails through the services: planned, recorded, graded by two, credited, accepted, found wet, calibrated."""

from datetime import timedelta

import pytest

from assayer.core.errors import ConflictError, EntryError, QuestionError, StaleError
from assayer.services.bench import specimens
from assayer.services.day import sheet as day
from assayer.services.dial_in import sheets, trails, trials, wetness
from assayer.services.dial_in.requests import (
    ExtraIn,
    FilamentIn,
    GradeIn,
    NewGrades,
    NewTrail,
    NewTrial,
    RegionIn,
    RunningChange,
    ScheduleIn,
    SetIn,
    TrialRecord,
)
from assayer.services.printing import batches, fit
from assayer.services.printing.requests import FitQuestion, NewBatch, PrintSettingsIn
from assayer.services.reports import dossier
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MemberMass, NewDrying
from assayer.services.stock import spools
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor

from ..conftest import NOW
from ..support import ACTOR, new_id
from .stockroom import add_petg, ago, spool_of
from .trailhead import Trailhead

TOMAS = Actor("Tomas", "Europe/Berlin")


@pytest.fixture
def head(once):
    return once("trailhead", Trailhead)


def test_a_trail_begins_in_the_middle_of_the_makers_window(head):
    (first,) = head.view.trials
    assert (first.number, first.outcome, first.part, first.parent_id) == (1, "planned", "clip", None)
    page = sheets.get_sheet(head.workspace, first.sheet_id)
    nozzle = page.sheet.values["nozzle_temperature"]
    assert (nozzle.value, nozzle.source) == (235, "maker's window")
    assert page.look.stands["nozzle_temperature"].within == 0.5
    assert (page.trail_id, page.trial_number, page.printer_name) == (head.id, 1, "Warm Box")
    # the speed that is usual wants more than this maker's flow with a 0.6 mm nozzle
    assert [w.name for w in page.look.warnings] == ["speed_inner", "speed_infill"]
    again = NewTrail(id=head.id, material_id=head.material, printer_id=head.printer.id, purpose="Clip", part="clip", trial_id=head.first)
    assert trails.add_trail(head.workspace, ACTOR, again)[1] is False
    with pytest.raises(ConflictError):
        trails.add_trail(head.workspace, ACTOR, again.model_copy(update={"purpose": "Hook"}))


def test_another_trail_may_start_from_this_ones_sheet(head):
    head.record(1)
    number = head.print(1, fan=55.0)
    taken = head.trial(number).sheet_id
    other = NewTrail(
        id=new_id(), material_id=add_petg(head.workspace, colour="red"), printer_id=head.printer.id, purpose="Hook", part="hook", trial_id=new_id(),
        start="sheet", sheet_id=taken,
    )  # fmt: skip
    made, _ = trails.add_trail(head.workspace, ACTOR, other)
    fan = sheets.get_sheet(head.workspace, made.trials[0].sheet_id).sheet.values["fan"]
    assert (fan.value, fan.source) == (55, "another material's sheet")
    assert sheets.compare_sheets(head.workspace, taken, made.trials[0].sheet_id).differences == []
    items = trails.list_trails(head.workspace).items
    assert [(i.purpose, i.trials, i.good) for i in items] == [("Hook", 0, 0), ("Clip", 2, 2)]
    with pytest.raises(EntryError):
        trails.add_trail(head.workspace, ACTOR, other.model_copy(update={"id": new_id(), "trial_id": new_id(), "sheet_id": None}))


def test_a_whole_trial_is_recorded_at_once(head):
    told = head.record(
        1,
        {"stringing": 1, "bridging": 3},
        minutes=41,
        room=21.5,
        spool_id=head.spool.id,
        total_mass=12.5,
        brim_mass=0.8,
        lift=0.2,
        symptoms=["strings"],
        removal="flexed",
        tested="cold",
        while_running=[RunningChange(layer=30, what="fan to 50 %")],
        note="snapped in 20 times",
    )
    t = told.trials[0]
    assert (t.outcome, t.minutes, t.spool_code, t.waste, t.grades) == ("good", 41, head.spool.code, 0.8, {"stringing": 1, "bridging": 3})
    assert (t.while_running[0].layer, t.symptoms, t.removal, t.tested, t.lift, t.room) == (30, ["strings"], "flexed", "cold", 0.2, 21.5)
    assert t.who == "Ilse"
    assert told.printability.share == 1
    # the spool's book follows, and follows what is changed
    assert [u.mass for u in spools.get_spool(head.workspace, head.spool.id).uses] == [12.5]
    head.record(1, total_mass=11.0)
    assert [u.mass for u in spools.get_spool(head.workspace, head.spool.id).uses] == [11.0]
    assert head.trial(1).note == "snapped in 20 times", "what is not named stays"


def test_an_edit_of_an_older_state_is_refused(head):
    t = head.trial(1)
    head.record(1)
    with pytest.raises(StaleError):
        trials.record_trial(head.workspace, ACTOR, t.id, TrialRecord(note="x"), t.revision)


@pytest.mark.parametrize(
    ("told", "field"),
    [
        ({"outcome": "failed"}, "failed_at"),
        ({"outcome": None}, "outcome"),
        ({"symptoms": ["ghosts"]}, "symptoms"),
        ({"failed_band": 2}, "failed_band"),
        ({"grades": [GradeIn(id=new_id(), trait="taste", grade=2)]}, "grades"),
        ({"grades": [GradeIn(id=new_id(), trait="stringing", grade=2, band=1)]}, "grades"),
    ],
)
def test_what_cannot_be_recorded_is_refused_by_its_field(head, told, field):
    with pytest.raises(EntryError) as error:
        head.record(1, **told)
    assert error.value.field == field
    assert head.trial(1).outcome == "planned"


def test_a_spool_of_another_material_is_refused_but_for_a_control_print(head):
    other = add_petg(head.workspace, colour="red")
    spool = spool_of(head.workspace, material_id=other)
    with pytest.raises(EntryError, match="another material"):
        head.record(1, spool_id=spool.id)
    number = head.plan(1, control=other)
    head.record(number, {"flatness": 4}, spool_id=spool.id)
    assert head.trial(number).control.colour == "red"
    head.record(1, {"flatness": 1}, spool_id=head.spool.id)
    (effect,) = head.view.effects
    assert (effect.change.name, effect.change.after.value) == ("filament", "Tarn Clearwater CF, red"), "another material is of another spool as well"
    assert (effect.by_trait, head.view.untold) == ({"flatness": 3}, [])
    assert head.view.printability.printed == 1, "a control says nothing of this material"


def test_more_waste_than_was_printed_is_asked_about(head):
    with pytest.raises(QuestionError) as asked:
        head.record(1, total_mass=4.1, brim_mass=40.0)
    (question,) = asked.value.questions
    assert "40 g" in question.text
    head.record(1, total_mass=4.1, brim_mass=40.0, confirmed=[question.key])
    head.record(1, total_mass=4.1, brim_mass=2.0, support_mass=2.1)
    purge = [FilamentIn(material_id=head.material, part_mass=1.0, purge_mass=0.2)]
    with pytest.raises(QuestionError):
        head.record(1, filaments=purge)


def test_several_filaments_each_with_part_and_purge(head):
    other = add_petg(head.workspace, colour="red")
    second = spool_of(head.workspace, material_id=other)
    told = head.record(
        1,
        total_mass=20.0,
        spool_id=head.spool.id,
        bond="do not bond",
        filaments=[FilamentIn(material_id=other, spool_id=second.id, part_mass=4.0, purge_mass=1.0)],
    )
    t = told.trials[0]
    assert [(f.material.colour, f.part_mass, f.purge_mass) for f in t.filaments] == [("red", 4, 1)]
    assert (t.bond, t.waste) == ("do not bond", 1.0)
    assert [u.mass for u in spools.get_spool(head.workspace, head.spool.id).uses] == [15.0]


def test_two_graders_and_the_later_grade_of_each_counts(head):
    head.record(1, {"stringing": 1})
    key = head.trial(1).id

    def grade(actor, value, **more):
        trials.grade_trial(head.workspace, actor, key, NewGrades(grades=[GradeIn(id=new_id(), trait="stringing", grade=value, **more)]))

    grade(TOMAS, 4)
    assert (head.trial(1).grades, head.trial(1).apart) == ({"stringing": 2.5}, {"stringing": 3})
    grade(TOMAS, 2)
    assert head.trial(1).grades == {"stringing": 1.5}
    grade(TOMAS, 4, distance="far")
    assert (head.trial(1).grades, head.trial(1).far) == ({"stringing": 1.5}, {"stringing": 4})
    grade(ACTOR, None)
    assert head.trial(1).grades == {"stringing": 2}, "no difference seen is no grade"


def test_credit_goes_through_the_services(head):
    head.record(1, {"stringing": 1})
    both = head.print(1, {"stringing": 3}, fan=60.0, retraction=2.0)
    (open_,) = head.view.untold
    assert (open_.number, open_.start, {d.name for d in open_.untold}) == (both, 1, {"fan", "retraction"})
    assert head.view.effects == []
    head.print(open_.start, {"stringing": 2}, **{open_.missing.name: open_.missing.after.value})
    assert {e.change.name: (e.by_trait["stringing"], e.seen) for e in head.view.effects} == {"fan": (1, 1), "retraction": (1, 1)}
    assert head.view.untold == []
    assert [d.name for d in head.trial(2).changes] == ["retraction", "fan"]


def test_a_planned_trial_may_still_be_changed_a_printed_one_may_not(head):
    head.record(1)
    number = head.plan(1, fan=60.0)
    before = head.trial(number).sheet_id
    t = head.trial(number)
    trials.record_trial(head.workspace, ACTOR, t.id, TrialRecord(changes={"fan": SetIn(value=70.0), "brim": None}), t.revision)
    assert {d.name: d.after and d.after.value for d in head.trial(number).changes} == {"fan": 70, "brim": None}
    assert sheets.get_sheet(head.workspace, before).sheet.values["fan"].value == 60, "a sheet never changes"
    same = head.plan(1)
    assert head.trial(same).sheet_id == head.trial(1).sheet_id
    t = head.trial(same)
    told = TrialRecord(changes={"fan": SetIn(value=65.0)}, extras=[ExtraIn(label="lamp", value="on")], prepared_with="own writer 3")
    trials.record_trial(head.workspace, ACTOR, t.id, told, t.revision)
    assert [d.name for d in head.trial(same).changes] == ["fan", "lamp", "prepared_with"]
    assert head.trial(1).sheet_id != head.trial(same).sheet_id
    head.record(number)
    with pytest.raises(ConflictError, match="keeps its sheet"):
        head.record(number, changes={"fan": SetIn(value=80.0)})


def test_schedules_regions_and_extra_fields_are_kept_as_they_are(head):
    bed = SetIn(value=80.0, schedule=ScheduleIn(step=-1, every=3, end=70), regions=[RegionIn(where="the hook", value=60.0)])
    new = NewTrial(
        id=new_id(), parent_id=head.first, changes={"bed_temperature": bed}, extras=[ExtraIn(label="lamp", value=3.0, unit="W")], prepared_with="own writer 2"
    )
    trials.add_trial(head.workspace, ACTOR, new)
    shown = sheets.get_sheet(head.workspace, head.trial(2).sheet_id).sheet
    held = shown.values["bed_temperature"]
    assert (held.schedule.step, held.schedule.every, held.schedule.end, held.regions[0].where) == (-1, 3, 70, "the hook")
    assert (shown.extras[0].label, shown.prepared_with) == ("lamp", "own writer 2")
    assert [d.name for d in head.trial(2).changes] == ["bed_temperature", "lamp", "prepared_with"]
    with pytest.raises(EntryError) as error:
        head.plan(1, fan=160.0)
    assert error.value.field == "fan"


def test_what_to_try_next_follows_the_lowest_grade_or_the_symptom(head):
    head.record(1, {"stringing": 1, "bridging": 3})
    told = trails.next_steps(head.workspace, head.id, None, None)
    assert (told.symptom.name, told.grade, told.trial_number) == ("strings", 1, 1)
    cooler = next(c for c in told.candidates if c.setting == "nozzle_temperature")
    assert (cooler.before, cooler.after, cooler.state) == (235, 230, "open")
    assert trails.next_steps(head.workspace, head.id, None, "gaps").symptom.label == "gaps between lines"
    failed = head.plan(1)
    head.record(failed, outcome="failed", failed_at=61, symptoms=["lifting corners"])
    assert trails.next_steps(head.workspace, head.id, head.trial(failed).id, None).symptom.name == "lifting corners"
    assert trails.next_steps(head.workspace, head.id, None, None).trial_number == 1, "one does not go on from a failure unless told to"
    with pytest.raises(EntryError):
        trails.next_steps(head.workspace, head.id, None, "ghosts")
    assert (head.view.printability.good, head.view.printability.printed, head.view.printability.first_good) == (1, 2, 1)


def test_a_trial_is_taken_back_and_in_again(head):
    head.record(1, total_mass=10.0, spool_id=head.spool.id)
    second = head.print(1, fan=60.0, told={"total_mass": 5.0, "spool_id": head.spool.id})
    third = head.plan(second, fan=70.0)
    key = head.trial(second).id
    with pytest.raises(ConflictError, match=f"trial {third}"):
        trials.retract_trial(head.workspace, ACTOR, key, back=False)
    trials.retract_trial(head.workspace, ACTOR, head.trial(third).id, back=False)
    trials.retract_trial(head.workspace, ACTOR, key, back=False)
    with pytest.raises(ConflictError, match="first trial"):
        trials.retract_trial(head.workspace, ACTOR, head.first, back=False)
    assert [t.number for t in head.view.trials] == [1]
    assert [u.mass for u in spools.get_spool(head.workspace, head.spool.id).uses] == [10.0]
    trials.retract_trial(head.workspace, ACTOR, key, back=True)
    assert [t.number for t in head.view.trials] == [1, 2]
    assert sorted(u.mass for u in spools.get_spool(head.workspace, head.spool.id).uses) == [5.0, 10.0]
    assert head.plan(2, fan=75.0) == 4, "numbers are not given twice"


def test_an_accepted_sheet_is_current_on_the_dossier_and_in_the_fit(head):
    with pytest.raises(ConflictError):
        trials.accept_trial(head.workspace, ACTOR, head.first, back=False)
    head.record(1)
    number = head.print(1, nozzle_temperature=290.0)
    trials.accept_trial(head.workspace, ACTOR, head.trial(number).id, back=False)
    assert (head.view.current.trial_number, head.view.current.purpose, head.view.current.who) == (number, "Clip", "Ilse")
    (current,) = dossier.dossier(head.workspace, head.material).current
    assert (current.sheet_id, current.printer_name, current.trail_id) == (head.trial(number).sheet_id, "Warm Box", head.id)
    question = FitQuestion(spool_id=head.spool.id, printer_id=head.printer.id)
    told = fit.fit_to_print(head.workspace, question)
    assert told.sheet.purpose == "Clip"
    assert any("290" in m.text for m in told.misses)
    over = question.model_copy(update={"settings": PrintSettingsIn(nozzle_temperature=235)})
    assert not any("290" in m.text for m in fit.fit_to_print(head.workspace, over).misses), "what is said goes before the sheet"
    trials.accept_trial(head.workspace, ACTOR, head.trial(number).id, back=True)
    assert head.view.current is None
    assert fit.fit_to_print(head.workspace, question).sheet is None


def test_popping_flags_the_spool_until_it_is_dried_and_plans_a_repeat(head, clock):
    head.record(1, spool_id=head.spool.id, symptoms=["popping"])
    (wet,) = head.view.wet
    assert (wet.code, wet.trial_number, wet.known_dry, wet.trials) == (head.spool.code, 1, None, ["clip (trial 1)"])
    assert [i.text for i in day.day_sheet(head.workspace).items if i.kind == "wet"] == [wet.words]
    told, made = trials.plan_drying(head.workspace, ACTOR, head.first, new_id())
    assert made
    repeat = told.trials[-1]
    assert (repeat.number, repeat.outcome, repeat.changes, repeat.spool_id) == (2, "planned", [], head.spool.id)
    assert spools.get_spool(head.workspace, head.spool.id).decision == "dry first"
    with pytest.raises(ConflictError):
        trials.plan_drying(head.workspace, ACTOR, repeat.id, new_id())
    oven = NewDrying(id=new_id(), device="Oven", temperature=65, started_at=NOW, hours=8, members=[MemberMass(spool_id=head.spool.id, raw="950")])
    kept, _ = drying.start_drying(head.workspace, ACTOR, oven)
    clock.now = NOW + timedelta(hours=8)
    drying.end_drying(head.workspace, ACTOR, oven.id, EndDrying(ended_at=clock.now, members=[MemberMass(spool_id=head.spool.id, raw="948")]), kept.revision)
    assert head.view.wet == []
    assert wetness.get_wet(head.workspace, head.spool.id) == []
    clock.now += timedelta(hours=2)
    head.record(1, {"noise": 1})
    head.record(2, {"noise": 4}, printed_at=clock.now)
    (effect,) = head.view.effects
    assert (effect.change.before.value, effect.change.after.value) == (head.spool.code, f"{head.spool.code}, dried 2026-06-15")
    assert effect.by_trait["noise"] == 3, "the repeat is the after to the before"


def test_what_was_printed_from_a_wet_spool_stays_in_doubt_though_it_is_dried_since(head, clock):
    study, _ = planning.create_study(
        head.workspace,
        ACTOR,
        NewStudy(
            id=new_id(),
            title="t",
            arms=[NewArm(id=new_id(), material_id=head.material), NewArm(id=new_id(), material_id=add_petg(head.workspace, colour="red"))],
            tests=[NewTest(id=new_id(), orientation=o, replicates=2) for o in ("flat", "upright")],
        ),
    )

    def print_(test, at):
        new = NewBatch(id=new_id(), arm_id=study.arms[0].id, test_ids=[study.tests[test].id], spool_id=head.spool.id, printed_at=at)
        return batches.print_batch(head.workspace, ACTOR, new)[0].specimens[0].id

    def doubt(specimen):
        return specimens.get_specimen(head.workspace, specimen).doubt

    before = print_(0, ago(30))
    assert doubt(before) is None
    head.record(1, spool_id=head.spool.id, printed_at=ago(20), symptoms=["popping"])
    assert doubt(before) == "printed from a spool found wet: it popped in trial 1"
    oven = NewDrying(id=new_id(), device="Oven", temperature=65, started_at=ago(18), hours=8, members=[MemberMass(spool_id=head.spool.id, raw="950")])
    kept, _ = drying.start_drying(head.workspace, ACTOR, oven)
    drying.end_drying(head.workspace, ACTOR, oven.id, EndDrying(ended_at=ago(10), members=[MemberMass(spool_id=head.spool.id, raw="948")]), kept.revision)
    after = print_(1, ago(5))
    assert (doubt(before) is not None, doubt(after)) == (True, None)
    head.record(head.plan(1), spool_id=head.spool.id, printed_at=ago(2), symptoms=["popping"])
    assert doubt(after) == "printed from a spool found wet: it popped in trial 2"
    assert doubt(before).endswith("trial 1")
