"""Results that were wrong once: left-outs that voted, bounds that were dropped, calibrations from the future."""

from datetime import timedelta

import pytest

from assayer.core.errors import AssayerError
from assayer.services.bench import preview, recompute, runs, specimens
from assayer.services.bench.requests import Correction, PreviewRequest, RawField, RunEdit
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.findings import one_test
from assayer.services.reports import dossier
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import CalibrationEdit, NewCalibration
from assayer.services.studies import board
from assayer.services.studies.requests import NewTest

from ..conftest import NOW
from ..support import ACTOR, AT, Lab, channel, new_id, reading, rig, run


@pytest.fixture
def lab(workspace):
    made = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=6) for o in ("flat", "upright")])
    made.flat, made.upright = made.tests
    return made


def second_rig(lab, **more):
    return rigs.add_rig(lab.workspace, ACTOR, rig(name="Jack", channels=[channel("force", "N", 1), channel("length", "mm", 0.01)], **more))[0].id


def state(lab, arm=0):
    return [d.state for d in lab.cell(lab.flat, lab.arms[arm]).dots]


def test_left_out_runs_do_not_vote_for_the_rig_of_a_test(lab):
    free = lab.specimens(lab.flat, lab.arms[0])
    other = second_rig(lab)
    for specimen in free[:3]:
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, other, "590", validity="left_out", validity_reason="slipped in the grips"))
    for specimen in free[3:5]:
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, "60"))
    assert sorted(state(lab)) == ["counts"] * 2 + ["left_out"] * 3
    assert lab.cell(lab.flat, lab.arms[0]).group.n == 2


def test_measured_on_one_rig_pulled_on_another_belongs_to_the_one_that_pulled(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    other = second_rig(lab, compliance=0.002)
    first = run(specimen, lab.flat, lab.rig, None, complete=False)
    runs.accept(lab.workspace, ACTOR, first)
    pulled = run(specimen, lab.flat, other, "590", width=(), thickness=(), id=first.id)
    kept = runs.accept(lab.workspace, ACTOR, pulled)[0]
    assert kept.rig.name == "Jack"
    assert kept.results[0].value == pytest.approx(590 / (4.02 * 3.97), rel=1e-9), "in the unit of the rig that pulled"


def test_editing_where_it_broke_does_not_reinstate_what_was_left_out(lab):
    kept = lab.accept(lab.flat, lab.arms[0], ["60", "61"])[0]
    out = runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(validity="left_out", validity_reason="slipped in the grips"), kept.revision)
    for outcome in ("grip", "gauge"):
        out = runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(outcome=outcome), out.revision)
        assert (out.validity, out.validity_reason, out.outcome) == ("left_out", "slipped in the grips", outcome)


def test_a_grip_break_bounds_the_strength_alone_and_is_told_everywhere(lab):
    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"], outcome="grip")
    lab.accept(lab.flat, lab.arms[1], ["50", "51", "52"])
    cell = lab.cell(lab.flat, lab.arms[0])
    assert (cell.group.n, cell.group.at_least, cell.group.at_most) == (3, 3, 0)
    assert any("lower bound" in n for n in cell.notes)
    verdict = lab.cell(lab.flat, lab.arms[1]).verdict
    assert verdict.word == "worse", "above a lower bound the reference is only higher still"
    assert one_test.findings(lab.workspace, lab.flat).arms[0].group.at_least == 3
    material = lab.study.arms[0].material.id
    shown = next(g for g in dossier.dossier(lab.workspace, material).history if g.quantity == "strength")
    assert (shown.mean, shown.at_least, shown.n) == (pytest.approx(cell.group.mean), 3, 3), "the dossier says what the board says"


def test_runs_stopped_early_do_not_fail_a_need(lab):
    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"], validity="at_least", validity_reason="test stopped early")
    lab.accept(lab.flat, lab.arms[1], ["60", "61", "62"])
    mean = lab.cell(lab.flat, lab.arms[0]).group.mean
    spec = CriterionSpec(id=new_id(), test_id=lab.flat, quantity="strength", no_use=0, all_needed=2 * mean, required=mean + 3)
    purpose = purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="p", criteria=[spec]))[0]
    bounded, exact = sorted(ranking.rank(lab.workspace, purpose.id).ranked, key=lambda r: lab.arms.index(r.arm_id))
    assert bounded.requirements[spec.id] != "fail"
    assert exact.requirements[spec.id] == "fail"
    assert spec.id in bounded.bounds
    assert not exact.bounds
    assert bounded.score_high > bounded.score_low, "what the bound leaves open is a band"


def test_recompute_tells_a_bound_that_changed_though_the_value_did_not(lab):
    from sqlalchemy import text

    lab.accept(lab.flat, lab.arms[0], ["60"], outcome="grip")
    with lab.workspace.write(ACTOR) as unit:
        unit.session.execute(text("UPDATE results SET bound = 'exact' WHERE quantity = 'strength'"))
    moved = recompute.recompute(lab.workspace, ACTOR)
    assert [(m.quantity, m.old_bound, m.new_bound) for m in moved] == [("strength", "exact", "at_least")]
    assert moved[0].old == pytest.approx(moved[0].new)
    assert recompute.recompute(lab.workspace, ACTOR) == []
    assert lab.cell(lab.flat, lab.arms[0]).group.at_least == 1


def test_two_standing_readings_of_one_place_are_refused(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    first = run(specimen, lab.flat, lab.rig, None, complete=False)
    runs.accept(lab.workspace, ACTOR, first)
    with pytest.raises(AssayerError, match="width"):
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, "60", width=("5.00",), thickness=(), id=first.id))
    twice = run(lab.specimens(lab.flat, lab.arms[1])[0], lab.flat, lab.rig, "60")
    with pytest.raises(AssayerError, match="width"):
        runs.accept(lab.workspace, ACTOR, twice.model_copy(update={"readings": [*twice.readings, reading("width", "9.0")]}))
    kept = specimens.get_specimen(lab.workspace, specimen).runs[0]
    assert [r.raw for r in kept.readings if r.field == "width"] == ["4.02"]


def test_a_correction_keeps_its_place_and_is_checked_like_an_entry(lab):
    kept = lab.accept(lab.flat, lab.arms[0], ["60"], width=("4.02", "4.03"))[0]
    second = next(r for r in kept.readings if r.field == "width" and r.position == 1)
    wrong = Correction(id=new_id(), field="width", position=1, raw="403", supersedes=second.id, reason="misread")
    with pytest.raises(AssayerError) as asked:
        runs.correct(lab.workspace, ACTOR, kept.id, wrong, kept.revision)
    assert "4.03" in str(asked.value) or any("4.03" in (q.likely or "") for q in getattr(asked.value, "questions", []))
    elsewhere = wrong.model_copy(update={"raw": "4.05", "position": 0})
    with pytest.raises(AssayerError):
        runs.correct(lab.workspace, ACTOR, kept.id, elsewhere, kept.revision)
    done = runs.correct(lab.workspace, ACTOR, kept.id, wrong.model_copy(update={"raw": "4.05"}), kept.revision)[0]
    assert [r.raw for r in done.readings if r.field == "width" and not r.superseded] == ["4.02", "4.05"]
    assert done.results[0].value == pytest.approx(60 * 9.80665 / ((4.02 + 4.05) / 2 * 3.97), rel=1e-9)


def calibration(channel="force", factor=1.02, start=AT - timedelta(days=1), **more):
    return NewCalibration(**{"id": new_id(), "channel": channel, "factor": factor, "valid_from": start} | more)


def test_a_calibration_holds_from_its_day_and_only_for_its_rig(lab):
    other = second_rig(lab)
    first = lab.accept(lab.flat, lab.arms[0], ["60"])[0]
    free = lab.specimens(lab.flat, lab.arms[0])[1]
    beside = runs.accept(lab.workspace, ACTOR, run(free, lab.flat, other, "588"))[0]
    before = first.results[0].value
    with pytest.raises(AssayerError):
        recompute.calibrate(lab.workspace, ACTOR, lab.rig, calibration(start=NOW + timedelta(days=1)))
    later = recompute.calibrate(lab.workspace, ACTOR, lab.rig, calibration(start=AT + timedelta(minutes=30)))[0]
    assert (later.runs, later.moved) == (1, []), "measured before it held"
    told = recompute.calibrate(lab.workspace, ACTOR, lab.rig, calibration(factor=1.05))[0]
    assert {m.quantity: m.new / m.old for m in told.moved}["strength"] == pytest.approx(1.05)
    assert {m.code for m in told.moved} == {first.code}
    values = {r.code: r.results[0].value for r in (specimens.get_specimen(lab.workspace, s).runs[0] for s in lab.specimens(lab.flat, lab.arms[0])[:2])}
    assert values == {first.code: pytest.approx(1.05 * before), beside.code: pytest.approx(beside.results[0].value)}


def test_a_corrected_calibration_recomputes_and_a_taken_back_one_never_held(lab):
    kept = lab.accept(lab.flat, lab.arms[0], ["60"])[0]
    new = calibration(due_at=AT - timedelta(hours=1))
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, new)
    assert any("due" in w for r in specimens.get_specimen(lab.workspace, kept.specimen_id).runs for w in r.remarks + [w for x in r.results for w in x.warnings])
    told = recompute.correct_calibration(lab.workspace, ACTOR, new.id, CalibrationEdit(factor=1.04), 1)
    assert told.moved[0].new / told.moved[0].old == pytest.approx(1.04 / 1.02)
    recompute.correct_calibration(lab.workspace, ACTOR, new.id, CalibrationEdit(retracted=True), 2)
    assert specimens.get_specimen(lab.workspace, kept.specimen_id).runs[0].results[0].value == pytest.approx(kept.results[0].value)
    assert lab.cell(lab.flat, lab.arms[0]).group.mean == pytest.approx(kept.results[0].value)


def test_a_reading_beyond_the_range_or_too_coarse_is_marked(lab):
    ranged = rigs.add_rig(lab.workspace, ACTOR, rig(name="Small", channels=[channel("force", "N", 10, high=500), channel("length", "mm", 0.01)]))[0].id
    free = lab.specimens(lab.flat, lab.arms[0])

    def marks(peak, specimen):
        kept = runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, ranged, peak, unchecked=True))[0]
        return " ".join(kept.remarks + [w for r in kept.results for w in r.warnings])

    assert "510 N is above the 500 N" in marks("510", free[0])
    assert "90 N" in marks("90", free[1])
    assert "400 N" not in marks("400", free[2])


def test_a_lost_decimal_point_is_asked_with_its_likely_meaning(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]

    def asked(**fields):
        rows = {"width": "5.02", "thickness": "4.01", "peak_force": "100"} | fields
        body = PreviewRequest(test_id=lab.flat, rig_version_id=lab.rig, specimen_id=specimen, readings=[RawField(field=f, raw=v) for f, v in rows.items()])
        return preview.preview_entry(lab.workspace, body).questions

    assert asked() == []
    assert [q.likely for q in asked(width="502")] == ["5.02"]
    assert [(q.field, q.row) for q in asked(thickness="401")] == [("thickness", 0)]
    # 215 MPa is no PLA: a tenth of the load would be
    heavy = asked(peak_force="440")
    assert len(heavy) == 1
    assert "PLA" in heavy[0].text
    with pytest.raises(AssayerError):
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, "440", width=("5.02",), thickness=("4.01",)))
    runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, "440", width=("5.02",), thickness=("4.01",), confirmed=[heavy[0].key]))


def test_the_reading_step_enters_the_scatter(workspace):
    """METHODS 13: three alike readings of a coarse display scatter by at least its step / √12."""
    coarse = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=3)], channels=[channel("force", "N", 100), channel("length", "mm", 0.01)])
    coarse.accept(coarse.tests[0], coarse.arms[0], ["600", "600", "600"], width=("5",), thickness=("4",))
    group = coarse.cell(coarse.tests[0], coarse.arms[0]).group
    # 30 MPa: 100 N of 600, 0.01 mm of 5 and of 4
    step = 30 * ((100 / 600) ** 2 + (0.01 / 5) ** 2 + (0.01 / 4) ** 2) ** 0.5
    assert group.sd == pytest.approx(step / 12**0.5, rel=1e-3)
    assert group.ci95[1] > group.ci95[0]


def test_a_new_reference_judges_every_test(lab):
    for test in lab.tests:
        lab.accept(test, lab.arms[0], ["60", "61", "62"])
        lab.accept(test, lab.arms[1], ["40", "41", "42"])
    assert [lab.cell(t, lab.arms[1]).verdict.word for t in lab.tests] == ["worse", "worse"]
    board.set_reference(lab.workspace, ACTOR, lab.study.id, lab.arms[1], None)
    assert [lab.cell(t, lab.arms[0]).verdict.word for t in lab.tests] == ["better", "better"]
    assert [lab.cell(t, lab.arms[1]).verdict for t in lab.tests] == [None, None]


def test_a_sibling_moves_the_ratio_and_another_person_signs_for_himself(lab):
    from assayer.services.unit import Actor

    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"])
    lab.accept(lab.upright, lab.arms[0], ["30", "31", "32"])
    before = lab.cell(lab.upright, lab.arms[0]).derived[0].ratio
    specimen = lab.specimens(lab.flat, lab.arms[0])[3]
    kept = runs.accept(lab.workspace, Actor("Tomas", "Europe/Berlin"), run(specimen, lab.flat, lab.rig, "90", unchecked=True))[0]
    after = lab.cell(lab.upright, lab.arms[0]).derived[0].ratio
    assert after == pytest.approx(before * 61 / ((60 + 61 + 62 + 90) / 4), rel=1e-6)
    assert (kept.operator, {r.entered_by for r in kept.readings}) == ("Tomas", {"Tomas"})


def test_the_margin_of_each_quantity_is_its_own(workspace):
    """A test's margin is for its main quantity; the others keep theirs."""
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=3, margin=0.5)])
    lab.accept(lab.tests[0], lab.arms[0], ["60", "61", "62"])
    lab.accept(lab.tests[0], lab.arms[1], ["50", "51", "52"])
    main = one_test.findings(lab.workspace, lab.tests[0]).arms[1].verdict
    peak = one_test.findings(lab.workspace, lab.tests[0], "peak_force").arms[1].verdict
    reference = one_test.findings(lab.workspace, lab.tests[0]).arms[0].group.mean
    assert main.margin == pytest.approx(0.5 * reference)
    assert peak.margin == pytest.approx(0.1 * one_test.findings(lab.workspace, lab.tests[0], "peak_force").arms[0].group.mean)
    assert (main.word, peak.word) == ("equivalent", "lower")
