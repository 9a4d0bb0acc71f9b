"""A correction of a rig is worked out beside the work of others: they do not wait for it, and what they do meanwhile is not lost to it."""

from contextlib import contextmanager
from datetime import timedelta

import pytest

from assayer.core.errors import AssayerError, MissingError, StaleError
from assayer.services.bench import foreseen, recompute, runs, specimens
from assayer.services.bench.requests import Correction, RunEdit
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import CalibrationEdit, ComplianceEdit, NewCalibration, RigEdit
from assayer.services.stock import materials
from assayer.services.studies import changing
from assayer.services.studies.requests import StudyExtension
from assayer.services.unit import Actor, Workspace

from ..support import ACTOR, AT, material, new_id, run

TOMAS = Actor("Tomas")


def calibration(factor=1.02, **more):
    return NewCalibration(**{"id": new_id(), "channel": "force", "factor": factor, "valid_from": AT - timedelta(days=1)} | more)


@pytest.fixture
def pulled(lab):
    """Two runs on the rig, and a calibration of it."""
    lab.kept = lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    lab.told = calibration()
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, lab.told)
    return lab


def meanwhile(monkeypatch, act, times=1):
    """Do this after what a correction gives was worked out, before it is kept; how often it was worked out."""
    looks = []
    look_ahead = recompute.look_ahead

    def looking(*given, **more):
        outlook = look_ahead(*given, **more)
        looks.append(outlook)
        if len(looks) <= times:
            act(len(looks))
        return outlook

    monkeypatch.setattr(recompute, "look_ahead", looking)
    return looks


def strengths(lab):
    found = [specimens.get_specimen(lab.workspace, s).runs for s in lab.specimens(lab.flat, lab.arms[0])]
    return [r[0].results[0].value if r and r[0].results else None for r in found]


def settled(lab):
    """What is kept is what the readings give."""
    assert recompute.would_move(lab.workspace) == []


def another_is_pulled(lab, _):
    free = lab.specimens(lab.flat, lab.arms[0], "waiting")[0]
    runs.accept(lab.workspace, TOMAS, run(free, lab.flat, lab.rig, "62"))


def one_is_corrected(lab, _):
    first = lab.kept[0]
    peak = next(r for r in first.readings if r.field == "peak_force")
    told = Correction(id=new_id(), field="peak_force", raw="59", supersedes=peak.id, reason="misread")
    runs.correct(lab.workspace, TOMAS, first.id, told, specimens.get_specimen(lab.workspace, first.specimen_id).runs[0].revision)


def one_is_taken_back(lab, _):
    runs.retract(lab.workspace, TOMAS, lab.kept[1].id)


def one_is_left_out(lab, _):
    first = lab.kept[0]
    edit = RunEdit(validity="left_out", validity_reason="slipped")
    runs.edit_run(lab.workspace, TOMAS, first.id, edit, specimens.get_specimen(lab.workspace, first.specimen_id).runs[0].revision)


def a_material_comes(lab, _):
    materials.add_material(lab.workspace, TOMAS, material("Outdoor"))


def it_is_calibrated_too(lab, _):
    recompute.calibrate(lab.workspace, TOMAS, lab.rig, calibration(1.5, channel="length"))


def the_rig_is_renamed(lab, n):
    key = next(r.rig_id for r in rigs.list_rigs(lab.workspace).items)
    rigs.edit_rig(lab.workspace, TOMAS, key, RigEdit(name=f"Frame {n}"))


def more_is_planned(lab, n):
    count = {lab.flat: 4 + n}
    changing.extend_study(lab.workspace, TOMAS, lab.study.id, StudyExtension(replicates=count, reason="more"), None)


@pytest.mark.parametrize(
    ("act", "looked"),
    [
        (another_is_pulled, 1),
        (one_is_corrected, 1),
        (one_is_taken_back, 1),
        (one_is_left_out, 1),
        (a_material_comes, 1),
        (it_is_calibrated_too, 2),
        (the_rig_is_renamed, 2),
        (more_is_planned, 2),
    ],
)
def test_what_others_do_while_a_correction_is_worked_out_stands_and_is_corrected_too(pulled, monkeypatch, act, looked):
    looks = meanwhile(monkeypatch, lambda n: act(pulled, n))
    edit = CalibrationEdit(factor=1.04)
    if act is it_is_calibrated_too:
        # the other calibration looks ahead as well
        looked += 1
    recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, edit, 1)
    assert len(looks) == looked
    settled(pulled)
    shown = strengths(pulled)
    area = 4.02 * 3.97 * (1.5**2 if act is it_is_calibrated_too else 1)
    peaks = {another_is_pulled: [60, 61, 62, None], one_is_corrected: [59, 61, None, None], one_is_taken_back: [60, None, None, None]}
    wanted = peaks.get(act, [60, 61, None, None])
    assert shown[:4] == [None if p is None else pytest.approx(1.04 * p * 9.80665 / area, rel=1e-9) for p in wanted]


def test_a_correction_is_kept_even_where_others_never_rest(pulled, monkeypatch):
    looks = meanwhile(monkeypatch, lambda n: the_rig_is_renamed(pulled, n), times=99)
    told = recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, CalibrationEdit(factor=1.04), 1)
    assert (len(looks), told.runs, len({m.code for m in told.moved})) == (3, 2, 2)
    settled(pulled)


def test_two_corrections_of_one_calibration_do_not_overwrite_each_other(pulled, monkeypatch):
    def other(n):
        if n == 1:
            recompute.correct_calibration(pulled.workspace, TOMAS, pulled.told.id, CalibrationEdit(factor=1.10), 1)

    meanwhile(monkeypatch, other)
    with pytest.raises(StaleError):
        recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, CalibrationEdit(factor=1.04), 1)
    assert strengths(pulled)[0] == pytest.approx(1.10 * 60 * 9.80665 / (4.02 * 3.97))
    settled(pulled)


@pytest.fixture
def in_turn(monkeypatch):
    """The runs that were reduced within a turn of writing."""
    within, found = [], []
    write, reduced = Workspace.write, foreseen.reduced

    @contextmanager
    def turn(self, actor, *more):
        with write(self, actor, *more) as unit:
            within.append(True)
            try:
                yield unit
            finally:
                within.pop()

    def reducing(session, one, *given):
        if within:
            found.append(one.id)
        return reduced(session, one, *given)

    monkeypatch.setattr(Workspace, "write", turn)
    monkeypatch.setattr(foreseen, "reduced", reducing)
    return found


@pytest.mark.parametrize("what", ["new", "corrected", "compliance", "recomputed"])
def test_nobody_waits_while_runs_are_reduced_anew(pulled, in_turn, what):
    workspace = pulled.workspace
    if what == "new":
        moved = recompute.calibrate(workspace, ACTOR, pulled.rig, calibration(1.5, channel="length"))[0].moved
    elif what == "corrected":
        moved = recompute.correct_calibration(workspace, ACTOR, pulled.told.id, CalibrationEdit(factor=1.04), 1).moved
    elif what == "compliance":
        assert recompute.keep_compliance(workspace, ACTOR, pulled.rig, ComplianceEdit(compliance=0.001)).runs == 2
        moved = None
    else:
        with workspace.write(ACTOR) as unit:
            unit.session.execute(foreseen.delete(foreseen.Result))
            unit.log("run", pulled.kept[0].id, "emptied")
        moved = recompute.recompute(workspace, ACTOR)
    assert moved is None or len({m.code for m in moved}) == 2
    assert in_turn == []
    settled(pulled)


def test_only_what_changed_meanwhile_is_reduced_within_the_turn(pulled, monkeypatch, in_turn):
    meanwhile(monkeypatch, lambda n: one_is_corrected(pulled, n))
    recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, CalibrationEdit(factor=1.04), 1)
    assert in_turn == [pulled.kept[0].id]


def test_a_correction_that_cannot_be_made_leaves_all_as_it_was(pulled):
    before = strengths(pulled)
    for wrong in (CalibrationEdit(factor=1.04, valid_to=AT - timedelta(days=9)), CalibrationEdit(valid_from=None, factor=1.3)):
        with pytest.raises(AssayerError):
            recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, wrong, 1)
    with pytest.raises(AssayerError, match="no channel 'heat'"):
        recompute.calibrate(pulled.workspace, ACTOR, pulled.rig, calibration(channel="heat"))
    assert strengths(pulled) == before
    assert recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, CalibrationEdit(factor=1.02), 1).moved == []
    settled(pulled)


def test_a_run_whose_remarks_alone_change_is_told_to_who_looks_at_it(pulled):
    before = [specimens.get_specimen(pulled.workspace, k.specimen_id).runs[0] for k in pulled.kept]
    due = CalibrationEdit(due_at=AT - timedelta(hours=1))
    assert recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, due, 1).moved == []
    after = [specimens.get_specimen(pulled.workspace, k.specimen_id).runs[0] for k in pulled.kept]
    assert [b.revision - a.revision for a, b in zip(before, after, strict=True)] == [1, 1]
    assert all("due" in " ".join(r.remarks) for r in after)
    assert [len(r.results) for r in after] == [len(r.results) for r in before], "each result once"


def test_how_far_it_is_can_be_asked_while_a_correction_is_worked_out(pulled, monkeypatch):
    def far():
        found = recompute.recomputing(pulled.workspace, pulled.rig)
        return found.done, found.of

    told = []
    read = foreseen.foresee

    def reading(session, ids):
        told.append((far(), len(ids)))
        return read(session, ids)

    monkeypatch.setattr(foreseen, "foresee", reading)
    monkeypatch.setattr(foreseen, "_PORTION", 1)
    meanwhile(monkeypatch, lambda _: told.append((far(), 0)))
    recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, CalibrationEdit(factor=1.04), 1)
    assert told == [((0, 2), 1), ((1, 2), 1), ((2, 2), 0), ((2, 2), 0)]
    assert far() == (0, 0), "nothing is under way any more"
    with pytest.raises(StaleError):
        recompute.correct_calibration(pulled.workspace, ACTOR, pulled.told.id, CalibrationEdit(factor=1.06), 1)
    assert far() == (0, 0)
    with pytest.raises(MissingError):
        recompute.recomputing(pulled.workspace, new_id())
