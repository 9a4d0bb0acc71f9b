"""Rules of the services that stood at an edge and nothing held: the instant itself, nothing at all, the other of two."""

from datetime import timedelta

from assayer.core.methods import method
from assayer.core.methods.inputs import Entry, Inputs
from assayer.services import changes
from assayer.services.bench import checks, recompute
from assayer.services.day import sheet
from assayer.services.rigs.requests import NewCalibration
from assayer.services.stock import intakes, spools
from assayer.services.stock.requests import NewFilamentUse
from assayer.services.studies import changing, listing
from assayer.services.studies.requests import StudyEdit, StudyExtension

from ..support import ACTOR, new_id
from .stockroom import add_petg, intake
from .test_slips_at_edges import typed


def due(lab):
    return [i.text for i in sheet.day_sheet(lab.workspace).items if i.kind == "calibration"]


def test_a_calibration_done_again_at_this_instant_is_no_longer_due(lab):
    now = lab.workspace.clock()

    def calibrate(begins, **more):
        recompute.calibrate(lab.workspace, ACTOR, lab.rig, NewCalibration(id=new_id(), channel="force", factor=1.0, valid_from=begins, **more))

    calibrate(now - timedelta(days=30), due_at=now - timedelta(days=1))
    assert len(due(lab)) == 1
    calibrate(now, due_at=now + timedelta(days=30))
    assert due(lab) == []


def test_the_day_sheet_counts_what_is_not_printed_and_what_is_not_tested(lab):
    told = {i.kind: i.text for i in sheet.day_sheet(lab.workspace).items}
    assert told["specimens"] == "16 of 16 specimens still to be tested"
    assert "to print" not in told
    study = listing.get_study(lab.workspace, lab.study.id)
    more = StudyExtension(replicates={study.tests[0].id: 6}, reason="two more")
    changing.extend_study(lab.workspace, ACTOR, study.id, more, study.revision)
    told = {i.kind: i.text for i in sheet.day_sheet(lab.workspace).items}
    assert told["to print"] == "4 of 20 specimens planned, not printed"


def test_only_what_is_given_of_a_study_is_changed_and_nothing_is_no_change(lab):
    def edit(**more):
        return changing.edit_study(lab.workspace, ACTOR, lab.study.id, StudyEdit(**more), listing.get_study(lab.workspace, lab.study.id).revision)

    def renamed():
        with lab.workspace.read() as session:
            return [c for c in changes.record_of(session, [lab.study.id])[lab.study.id] if c.action == "renamed"]

    title = lab.study.title
    edit(put_away=True)
    assert renamed() == []
    assert (edit(question="Which of two?").question, edit(title="Other").title) == ("Which of two?", "Other")
    assert sorted((c.name, c.after) for r in renamed() for c in r.changes) == [("question", "Which of two?"), ("title", "Other")]
    assert title in [c.before for r in renamed() for c in r.changes]


def test_a_spool_without_a_body_weighs_nothing_empty(workspace):
    key = add_petg(workspace)
    page = intakes.take_in(workspace, ACTOR, intake(key, gross="750", empty="0"))[0]
    assert page.empty == 0


def test_what_no_slip_explains_is_asked_about_with_what_to_look_at(monkeypatch):
    """A strength beyond what PLA can have, of readings that no usual slip brings back."""
    tension = method("tension")
    values = {"width": 5.0, "thickness": 4.0, "peak_force": 9000.0}
    inputs = Inputs([Entry(field=name, position=0, value=v) for name, v in values.items()])
    monkeypatch.setattr(checks, "_slipped", lambda *_: None)
    asked = checks._about_results(tension, inputs, [typed(n, v) for n, v in values.items()], tension.reduce(inputs), "PLA")
    assert asked[0].text.endswith("for PLA: check the readings and their units")
    assert (asked[0].field, asked[0].likely) == ("width", None)


def test_what_is_taken_from_a_spool_is_a_change_of_it(workspace):
    page = intakes.take_in(workspace, ACTOR, intake(add_petg(workspace)))[0]
    use = NewFilamentUse(id=new_id(), raw="20", at=workspace.clock(), what="hook")
    assert spools.take_filament(workspace, ACTOR, page.id, use)[0].revision == page.revision + 1
