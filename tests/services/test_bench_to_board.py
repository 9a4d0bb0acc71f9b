"""From an accepted entry to the board, the findings and the ranking; and back again by undo and correction."""

from datetime import timedelta

import pytest
from sqlalchemy import text

from assayer.core.errors import ConflictError, EntryError, MissingError, StaleError, UnclearFileError
from assayer.demo.curve_model import Behaviour, as_file, pull
from assayer.services import codes
from assayer.services.bench import curves, preview, queue, recompute, runs, specimens
from assayer.services.bench.requests import Correction, PreviewRequest, RawField, RunEdit
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import CriterionSpec, NewPurpose, PurposeEdit
from assayer.services.findings import one_test
from assayer.services.rigs import rigs, templates
from assayer.services.rigs.requests import ColumnAnswer, NewCalibration, TemplateAnswer
from assayer.services.studies import board, listing
from assayer.services.studies.requests import NewTest

from ..support import ACTOR, AT, Lab, new_id, rig, run


def _two_materials(workspace):
    made = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=3) for o in ("flat", "upright")])
    made.flat, made.upright = made.tests
    return made


@pytest.fixture
def lab(once):
    """Two materials, flat and upright, three of each; nothing pulled yet."""
    return once("three of each", _two_materials)


def test_entries_become_verdicts_and_a_ranking(lab):
    empty = lab.cell(lab.flat, lab.arms[0])
    assert (empty.planned, empty.printed, empty.tested, empty.dots, empty.group) == (3, 3, 0, [], None)
    lab.accept(lab.flat, lab.arms[0], ["60.2", "61,4 kgf", "590 N"])
    lab.accept(lab.flat, lab.arms[1], ["50.1", "51.0", "49.4"])
    lab.accept(lab.upright, lab.arms[0], ["30.1", "31.0", "29.4"])
    worse = lab.cell(lab.flat, lab.arms[1])
    assert (worse.tested, worse.verdict.word) == (3, "worse")
    assert worse.group.mean == pytest.approx((50.1 + 51.0 + 49.4) / 3 * 9.80665 / (4.02 * 3.97))
    ratio = lab.cell(lab.upright, lab.arms[0]).derived[0]
    assert ratio.ratio == pytest.approx(0.5, abs=0.02)
    assert ratio.ci95[0] < ratio.ratio < ratio.ci95[1]
    found = one_test.findings(lab.workspace, lab.flat)
    assert len(found.pairs) == 1
    assert found.pairs[0].difference == pytest.approx(worse.verdict.difference)
    criteria = [
        CriterionSpec(id=new_id(), test_id=lab.flat, quantity="strength", no_use=0, all_needed=60),
        CriterionSpec(id=new_id(), test_id=lab.upright, quantity="layer_ratio", no_use=0, all_needed=1),
    ]
    use, _ = purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="u", criteria=criteria))
    ranked = ranking.rank(lab.workspace, use.id, {criteria[0].id: 1, criteria[1].id: 0}).ranked
    assert [r.rank for r in ranked] == [1, 2]
    # with the untested layer ratio the second one's score is a band that may reach the first
    half = ranking.rank(lab.workspace, use.id).ranked
    assert {r.coverage for r in half} == {1.0, 0.5}
    assert {r.rank for r in half} == {1}
    kept = purposes.edit_purpose(lab.workspace, ACTOR, use.id, PurposeEdit(weights={criteria[0].id: 5}), use.revision)
    assert [c.weight for c in kept.criteria] == [5, 1]


def test_the_same_entry_twice_is_one(lab):
    entry = run(lab.specimens(lab.flat, lab.arms[0])[0], lab.flat, lab.rig)
    first, is_new = runs.accept(lab.workspace, ACTOR, entry)
    again, is_new_again = runs.accept(lab.workspace, ACTOR, entry)
    assert (is_new, is_new_again) == (True, False)
    assert again == first
    assert lab.cell(lab.flat, lab.arms[0]).tested == 1


def test_two_people_cannot_pull_one_specimen(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig))
    with pytest.raises(ConflictError, match="was tested already by Ilse") as caught:
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, "44"))
    assert caught.value.current.results[0].value == pytest.approx(36.991, abs=0.001)


def test_a_grip_break_is_a_lower_bound_and_withdraws_what_it_could_overturn(lab):
    lab.accept(lab.flat, lab.arms[0], ["60.2", "61.4", "59.5"])
    lab.accept(lab.flat, lab.arms[1], ["50.1", "51.0"])
    grip = runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[1])[2], lab.flat, lab.rig, "49.5", outcome="grip"))[0]
    assert (grip.validity, grip.validity_reason) == ("at_least", "at the grip")
    assert {r.quantity: r.bound for r in grip.results} == {"strength": "at_least", "peak_force": "at_least"}
    cell = lab.cell(lab.flat, lab.arms[1])
    assert cell.verdict.word == "undecided"
    assert "bounds treated as exact: worse" in cell.verdict.notes[0]
    runs.edit_run(lab.workspace, ACTOR, grip.id, RunEdit(validity="left_out", validity_reason="slipped"), grip.revision)
    cell = lab.cell(lab.flat, lab.arms[1])
    assert (cell.verdict.word, cell.group.n, cell.tested) == ("worse", 2, 3)
    assert [d.state for d in cell.dots].count("left_out") == 1


def test_undo_takes_back_and_nothing_is_lost(lab):
    entry = lab.accept(lab.flat, lab.arms[0], ["60.2"])[0]
    runs.retract(lab.workspace, ACTOR, entry.id)
    assert lab.cell(lab.flat, lab.arms[0]).tested == 0
    kept = specimens.get_specimen(lab.workspace, entry.specimen_id).runs[0]
    assert kept.retracted_at is not None
    assert [r.raw for r in kept.readings] == ["4.02", "3.97", "60.2"]
    runs.restore(lab.workspace, ACTOR, entry.id)
    assert lab.cell(lab.flat, lab.arms[0]).tested == 1
    runs.retract(lab.workspace, ACTOR, entry.id)
    runs.accept(lab.workspace, ACTOR, run(entry.specimen_id, lab.flat, lab.rig, "61"))
    with pytest.raises(ConflictError, match="was tested already"):
        runs.restore(lab.workspace, ACTOR, entry.id)


def test_a_correction_supersedes_with_a_reason_and_a_stale_edit_is_refused(lab):
    entry = lab.accept(lab.flat, lab.arms[0], ["60.2"])[0]
    old = next(r for r in entry.readings if r.field == "width")
    fix = Correction(id=new_id(), field="width", position=0, raw="4,12", supersedes=old.id, reason="misread")
    fixed, is_new = runs.correct(lab.workspace, ACTOR, entry.id, fix, entry.revision)
    assert is_new
    assert fixed.results[0].value == pytest.approx(60.2 * 9.80665 / (4.12 * 3.97))
    assert [(r.raw, r.superseded) for r in fixed.readings if r.field == "width"] == [("4.02", True), ("4,12", False)]
    assert runs.correct(lab.workspace, ACTOR, entry.id, fix, entry.revision)[1] is False, "sent twice"
    with pytest.raises(StaleError, match="changed by somebody else") as caught:
        runs.edit_run(lab.workspace, ACTOR, entry.id, RunEdit(outcome="grip"), entry.revision)
    assert caught.value.current.revision == fixed.revision
    with pytest.raises(ConflictError, match="not the standing one any more"):
        runs.correct(lab.workspace, ACTOR, entry.id, fix.model_copy(update={"id": new_id()}), fixed.revision)
    assert [c.action for c in fixed.record] == ["accepted", "corrected"]


def test_readings_are_append_only_for_everything_above_the_store(lab):
    entry = lab.accept(lab.flat, lab.arms[0], ["60.2"])[0]
    with lab.workspace.read() as session:
        before = session.execute(text("SELECT * FROM readings")).all()
    runs.edit_run(lab.workspace, ACTOR, entry.id, RunEdit(validity="left_out", validity_reason="something odd"), entry.revision)
    runs.retract(lab.workspace, ACTOR, entry.id)
    recompute.recompute(lab.workspace, ACTOR)
    with lab.workspace.read() as session:
        assert session.execute(text("SELECT * FROM readings")).all() == before


@pytest.mark.parametrize(
    "change, field, words",
    [
        ({"peak": "abc"}, "peak_force", "'abc' is not a number"),
        ({"peak": "-4"}, "peak_force", "must be greater than 0"),
        ({"peak": "1.234,5"}, "peak_force", "thousands separators"),
        ({"peak": "60 mm"}, "peak_force", "'mm' is not a unit of force"),
        ({"peak": None}, "peak_force", "enter the load when it broke"),
        ({"width": ["0"]}, "width", "must be greater than 0"),
        ({"width": []}, "width", "at least one reading is needed"),
        ({"thickness": ["4.0", ""]}, "thickness", "nothing entered"),
    ],
)
def test_a_wrong_entry_names_its_field_and_leaves_nothing(lab, change, field, words):
    with pytest.raises(EntryError, match=words) as caught:
        runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[0])[0], lab.flat, lab.rig, **change))
    assert caught.value.field == field
    with lab.workspace.read() as session:
        assert session.execute(text("SELECT (SELECT count(*) FROM runs) + (SELECT count(*) FROM readings)")).scalar() == 0
    assert lab.cell(lab.flat, lab.arms[0]).tested == 0


def test_dimensions_round_then_pull(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    measured = run(specimen, lab.flat, lab.rig, None, complete=False)
    runs.accept(lab.workspace, ACTOR, measured)
    item = next(i for i in queue.queue(lab.workspace, lab.flat, "st", True).items if i.specimen_id == specimen)
    assert (item.state, item.fields) == ("measured", {"width": ["4.02"], "thickness": ["3.97"]})
    assert item.arm is None, "blind gives no material away"
    load = run(specimen, lab.flat, lab.rig, "60.2", (), (), id=item.run_id)
    done, _ = runs.accept(lab.workspace, ACTOR, load)
    assert done.results[0].value == pytest.approx(36.991, abs=0.001)
    assert lab.cell(lab.flat, lab.arms[0]).measured == 0


def test_a_specimen_that_never_was_measured_is_an_outcome_too(lab):
    entry = run(lab.specimens(lab.flat, lab.arms[0])[0], lab.flat, lab.rig, None, (), (), validity="left_out", validity_reason="damaged in handling")
    found, _ = runs.accept(lab.workspace, ACTOR, entry)
    assert found.results == []
    cell = lab.cell(lab.flat, lab.arms[0])
    assert (cell.tested, cell.dots[0].value, cell.dots[0].reason) == (1, None, "damaged in handling")


def test_unlike_rigs_are_shown_apart_and_never_averaged(lab):
    old = rigs.add_rig(lab.workspace, ACTOR, rig(name="Old frame"))[0].id
    lab.accept(lab.flat, lab.arms[0], ["60.2", "61.4"])
    runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[0])[2], lab.flat, old, "80"))
    cell = lab.cell(lab.flat, lab.arms[0])
    assert cell.group.n == 2
    assert [d.state for d in cell.dots].count("apart") == 1
    assert "another rig (Old frame): shown apart, not averaged" in cell.notes[0]


def test_a_calibration_counts_while_it_is_valid(lab):
    span = {"valid_from": AT - timedelta(days=2), "valid_to": AT - timedelta(hours=2)}
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, NewCalibration(id=new_id(), channel="force", factor=1.1, **span))
    inside, later = (
        runs.accept(lab.workspace, ACTOR, run(s, lab.flat, lab.rig, happened_at=AT - timedelta(days=d)))[0]
        for s, d in zip(lab.specimens(lab.flat, lab.arms[0]), (1, 0), strict=False)
    )
    assert inside.results[0].value == pytest.approx(later.results[0].value * 1.1)


def test_a_preview_reduces_and_warns_without_keeping(lab):
    lab.accept(lab.flat, lab.arms[0], ["60.2", "61.4"])
    third = lab.specimens(lab.flat, lab.arms[0])[2]

    def tried(peak, width="4.02", blind=False):
        fields = [RawField(field="width", raw=width), RawField(field="thickness", raw="3.97"), RawField(field="peak_force", raw=peak)]
        return preview.preview_entry(lab.workspace, PreviewRequest(test_id=lab.flat, rig_version_id=lab.rig, specimen_id=third, readings=fields, blind=blind))

    fine = tried("60.2")
    assert fine.reduction.results[0].value == pytest.approx(36.991, abs=0.001)
    assert fine.checks[0].level == "plausible"
    assert any("from the mean of the other 2 of this arm" in c.text for c in tried("30.0").checks)
    assert not any("of this arm" in c.text for c in tried("30.0", blind=True).checks), "blind checks against the method's range only"
    assert [(q.field, q.likely) for q in tried("60.2", width="402").questions] == [("width", "4.02")]
    assert [(e.field, e.row, e.text) for e in tried("abc").errors] == [("peak_force", 0, "'abc' is not a number")]
    assert lab.cell(lab.flat, lab.arms[0]).tested == 2


def recording(peak_factor=1.0):
    import numpy as np

    return as_file(*pull(Behaviour(2000, 40, 3.0), peak_factor, 16.0, 20, 0.0, np.random.default_rng(5)))


def test_a_recorded_curve_from_drop_to_dragged_range(lab):
    curve_id, specimen = new_id(), lab.specimens(lab.flat, lab.arms[0])[0]
    taken, is_new = curves.take_in(lab.workspace, ACTOR, curve_id, lab.rig, "pull.csv", recording())
    assert (is_new, taken.columns) == (True, ["force", "travel", "time"])
    assert curves.take_in(lab.workspace, ACTOR, curve_id, lab.rig, "pull.csv", recording())[1] is False
    with pytest.raises(ConflictError, match="another recording already has this id"):
        curves.take_in(lab.workspace, ACTOR, curve_id, lab.rig, "pull.csv", recording(0.5))
    entry, _ = runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, None, ["4.00"], ["4.00"], curve_id=curve_id))
    strength = next(r.value for r in entry.results if r.quantity == "strength")
    assert strength == pytest.approx(40, rel=0.01)
    moved = runs.edit_run(lab.workspace, ACTOR, entry.id, RunEdit(options={"modulus_range": [0.003, 0.006]}), entry.revision)
    modulus = {k: next(r.value for r in x.results if r.quantity == "apparent_modulus") for k, x in (("before", entry), ("after", moved))}
    assert modulus["after"] < modulus["before"]
    assert recompute.recompute(lab.workspace, ACTOR) == [], "the choice is stored: computing anew moves nothing"
    back = runs.edit_run(lab.workspace, ACTOR, entry.id, RunEdit(options={"modulus_range": None}), moved.revision)
    assert next(r.value for r in back.results if r.quantity == "apparent_modulus") == pytest.approx(modulus["before"])
    with pytest.raises(ConflictError, match="already belongs to specimen"):
        runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[0])[1], lab.flat, lab.rig, None, curve_id=curve_id))
    assert lab.workspace.files.path(__import__("hashlib").sha256(recording()).hexdigest()).read_bytes() == recording()


def test_an_unclear_file_is_asked_once_and_remembered(lab):
    headerless = b"\n".join(recording().split(b"\n")[5:])
    with pytest.raises(UnclearFileError) as caught:
        curves.take_in(lab.workspace, ACTOR, new_id(), lab.rig, "x.csv", headerless)
    answer = TemplateAnswer(
        signature=caught.value.preview.signature,
        columns=[ColumnAnswer(role="time", unit="s"), ColumnAnswer(role="travel", unit="mm"), ColumnAnswer(role="force", unit="N")],
    )
    templates.keep_template(lab.workspace, ACTOR, lab.rig, answer)
    assert curves.take_in(lab.workspace, ACTOR, new_id(), lab.rig, "x.csv", headerless)[0].columns == ["force", "travel", "time"]
    with pytest.raises(EntryError, match="say which column is the force"):
        templates.keep_template(lab.workspace, ACTOR, lab.rig, TemplateAnswer(signature="x", columns=[ColumnAnswer(role="time", unit="s")]))


def test_recompute_reports_every_value_that_moved(lab):
    lab.accept(lab.flat, lab.arms[0], ["60.2", "61.4"])
    with lab.workspace.write(ACTOR) as unit:
        unit.session.execute(
            text("UPDATE results SET value = value * 2 WHERE quantity = 'strength' AND seq = (SELECT min(seq) FROM results WHERE quantity = 'strength')")
        )
    moved = recompute.recompute(lab.workspace, ACTOR)
    assert [(m.quantity, round(m.old / m.new, 6)) for m in moved] == [("strength", 2.0)]
    assert recompute.recompute(lab.workspace, ACTOR) == []


def test_codes_lead_to_specimens_and_rigs(lab):
    item = queue.queue(lab.workspace, lab.upright, "st", False).items[0]
    found = codes.resolve_code(lab.workspace, f"http://x/s/{item.code.lower()}")
    assert (found.kind, found.code, found.id, found.test_id) == ("specimen", item.code, item.specimen_id, lab.upright)
    wrong = item.code[:-1] + ("2" if item.code[-1] != "2" else "3")
    with pytest.raises(EntryError, match="wrong check character"):
        codes.resolve_code(lab.workspace, wrong)
    with pytest.raises(MissingError, match="belongs to nothing in this notebook"):
        from assayer.core.codes import make_code

        codes.resolve_code(lab.workspace, make_code(lambda c: False, 5))


def test_a_specimen_is_held_by_one_station_at_a_time(lab):
    first = lab.specimens(lab.flat, lab.arms[0])[0]
    assert queue.take_lease(lab.workspace, ACTOR, first, "one").held_by is None
    assert queue.take_lease(lab.workspace, ACTOR, first, "two").held_by == "one"
    queue.take_lease(lab.workspace, ACTOR, lab.specimens(lab.flat, lab.arms[0])[1], "one")
    assert queue.take_lease(lab.workspace, ACTOR, first, "two").held_by is None, "a station holds one at a time"


def test_another_reference_turns_the_verdicts(lab):
    lab.accept(lab.flat, lab.arms[0], ["60.2", "61.4", "59.5"])
    lab.accept(lab.flat, lab.arms[1], ["50.1", "51.0", "49.4"])
    revision = listing.get_study(lab.workspace, lab.study.id).revision
    board.set_reference(lab.workspace, ACTOR, lab.study.id, lab.arms[1], revision)
    assert lab.cell(lab.flat, lab.arms[0]).verdict.word == "better"
    with pytest.raises(StaleError, match="changed by somebody else"):
        board.set_reference(lab.workspace, ACTOR, lab.study.id, lab.arms[0], revision)
