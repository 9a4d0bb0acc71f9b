"""Crossed studies and sweeps through the services: cells by their levels, effects as the core has them, what prevents them."""

import pytest

from assayer.core.stats.effects import replicated_effects
from assayer.core.stats.groups import summarise
from assayer.core.stats.sweep import sweep
from assayer.core.stats.verdicts import Margin
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import RunEdit
from assayer.services.findings.factors import factors
from assayer.services.rigs import rigs
from assayer.services.stock import materials
from assayer.services.studies import changing, planning
from assayer.services.studies.fairness import fairness
from assayer.services.studies.requests import NewArm, NewStudy, NewTest, StudyCopy
from assayer.services.unit import Actor

from ..support import ACTOR, jack, material, new_id, printed, rig, run

TOMAS = Actor("Tomas")
CELLS = {
    ("Hollin Everyday", "untreated"): (41.2, 42.6, 40.1, 43.0),
    ("Hollin Everyday", "soaked"): (33.4, 31.9, 34.8, 32.2),
    ("Hollin Tough", "untreated"): (38.0, 37.1, 38.9, 37.6),
    ("Hollin Tough", "soaked"): (35.1, 36.0, 34.2, 35.5),
}
"""The example of METHODS 15."""


class Crossed:
    """Arms of several materials, pulled on one rig or on the rig of each."""

    def __init__(self, workspace, arms, replicates, **more):
        self.workspace = workspace
        self.frame = rigs.add_rig(workspace, ACTOR, rig(name=f"Frame for {replicates}"))[0]
        self.test = NewTest(id=new_id(), orientation="flat", replicates=replicates)
        new = NewStudy(id=new_id(), title="t", arms=arms, tests=[self.test], crosses_materials=True, **more)
        self.study = printed(workspace, planning.create_study(workspace, ACTOR, new)[0])

    def pull(self, values, rig_of=None):
        """`values` of a section of 20 mm² by arm."""
        for arm, own in zip(self.study.arms, values, strict=True):
            frame, factor = (rig_of or {}).get(arm.id, (self.frame.id, 9.80665))
            waiting = [i for i in queue.queue(self.workspace, self.test.id, "st", blind=False).items if i.arm.id == arm.id and i.state == "waiting"]
            for item, value in zip(waiting, own, strict=False):
                runs.accept(self.workspace, ACTOR, run(item.specimen_id, self.test.id, frame, f"{20 * value / factor:.8g}", ("5.0",), ("4.0",)))

    def factors(self):
        return factors(self.workspace, self.test.id)

    def problems(self):
        return [i.name for i in fairness(self.workspace, self.study.id).items if i.blocking]


def two_materials(workspace):
    made = [material("Everyday"), material("Tough", colour="moss")]
    for m in made:
        materials.add_material(workspace, ACTOR, m)
    return [m.id for m in made]


@pytest.fixture
def washed(workspace):
    arms = [NewArm(id=new_id(), material_id=key, treatment=how) for key in two_materials(workspace) for how in ("", "soaked")]
    return Crossed(workspace, arms, 4, studied_factor="treatment")


def test_a_crossed_study_is_fair_and_its_effects_are_those_of_its_cells(washed):
    assert washed.problems() == []
    washed.pull(CELLS.values())
    shown = washed.factors()
    assert [(f.name, f.levels) for f in shown.factors] == [("material", ["Hollin Everyday", "Hollin Tough"]), ("treatment", ["untreated", "soaked"])]
    assert {tuple(c.levels): round(c.mean, 3) for c in shown.cells} == {k: pytest.approx(sum(v) / 4, abs=2e-3) for k, v in CELLS.items()}
    levels = {f.name: f.levels for f in shown.factors}
    expected = replicated_effects(levels, {k: summarise(v) for k, v in CELLS.items()}).effects
    for e, x in zip(shown.effects, expected, strict=True):
        assert (tuple(e.factors), e.difference, *e.ci95) == (x.factors, *(pytest.approx(v, abs=5e-3) for v in (x.difference, x.ci95.low, x.ci95.high)))
    # METHODS 15: interaction 5.95 [3.5274, 8.3726]; the first factor's interval includes 0
    assert [e.stands_out for e in shown.effects] == [False, True, True]
    assert shown.effects[2].difference == pytest.approx(5.95, abs=5e-3)
    assert [e.matters for e in shown.effects] == [False, True, True]
    assert shown.sweep is None


def test_what_prevents_effects_is_said(washed):
    washed.pull([*list(CELLS.values())[:3], (35.1,)])
    shown = washed.factors()
    assert (shown.effects, shown.reason) == ([], "only one value with material Hollin Tough, treatment soaked: each combination needs at least two")
    washed.pull([(), (), (), (35.0, 36.0)])
    assert len(washed.factors().effects) == 3


def test_one_excluded_specimen_is_in_no_cell_and_a_bound_prevents_effects(washed):
    washed.pull(CELLS.values())
    before = washed.factors().effects[2].difference
    first = queue.queue(washed.workspace, washed.test.id, "st", blind=False).items[0]
    run_ = runs.edit_run(washed.workspace, TOMAS, first.run_id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert washed.factors().effects[2].difference != before
    runs.edit_run(washed.workspace, TOMAS, run_.id, RunEdit(validity="at_least"), None)
    assert washed.factors().reason == "some results are bounds: effects need values"


def test_materials_on_two_rigs_are_fair_and_a_missing_combination_is_said(workspace):
    frames = [rigs.add_rig(workspace, ACTOR, rig(name="Pull"))[0], jack(workspace)]
    first, second = two_materials(workspace)
    pairs = [(first, frames[0]), (first, frames[1]), (second, frames[0])]
    study = Crossed(workspace, [NewArm(id=new_id(), material_id=m, rig_id=f.rig_id) for m, f in pairs], 2, studied_factor="rig")
    assert study.problems() == []
    (missing,) = [i for i in fairness(workspace, study.study.id).items if i.name == "combinations missing"]
    assert (missing.text, missing.blocking) == ("Hollin Tough, moss lacks a rig that the others have", False)
    factor = {frames[0].id: 9.80665, frames[1].id: 1}
    on = {a.id: (f.id, factor[f.id]) for a, (_, f) in zip(study.study.arms, pairs, strict=True)}
    study.pull([(40.0, 41.0), (42.0, 43.0), (30.0, 31.0)], on)
    shown = study.factors()
    assert [f.levels for f in shown.factors] == [["Hollin Everyday", "Hollin Tough"], ["Pull", "Jack"]]
    assert shown.reason.startswith("no value with material Hollin Tough, rig Jack")
    # a copy is crossed as well
    copied = changing.copy_study(
        workspace, ACTOR, study.study.id, StudyCopy(id=new_id(), title="c", arm_ids=[a.id for a in study.study.arms], test_ids=[study.test.id])
    )[0]
    assert copied.crosses_materials


FANS = {0: (30.1, 31.0, 29.6), 40: (33.2, 32.5, 33.9), 60: (34.1, 33.4, 34.6), 80: (33.0, 33.8, 32.9), 100: (29.9, 30.6, 31.1)}


def test_a_sweep_has_its_window_and_its_shape_and_only_values_that_count(workspace):
    key, other = two_materials(workspace)
    arms = [NewArm(id=new_id(), material_id=key, settings={"fan": level}) for level in FANS]
    study = Crossed(workspace, arms, 3, studied_factor="setting", studied_settings=["fan"])
    assert study.factors().sweep is None, "nothing is tested"
    study.pull(FANS.values())
    shown = study.factors().sweep
    x, y = [level for level, own in FANS.items() for _ in own], [v for own in FANS.values() for v in own]
    expected = sweep(x, y, Margin(0.10))
    assert (shown.setting, shown.unit, shown.best_level, shown.chosen) == ("fan", "%", 60, str(expected.chosen))
    assert [(v.x, v.in_window) for v in shown.levels] == [(v.x, v.in_window) for v in expected.levels]
    assert [v.loss_limit for v in shown.levels] == pytest.approx([v.loss_limit for v in expected.levels], abs=5e-3)
    assert shown.optimum == pytest.approx(expected.optimum.x, rel=1e-3)
    assert (shown.curve[0][0], shown.curve[-1][0], len(shown.points)) == (0, 100, 15)
    best = next(i for i in queue.queue(workspace, study.test.id, "st", blind=False).items if i.arm.id == study.study.arms[2].id)
    runs.edit_run(workspace, TOMAS, best.run_id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert len(study.factors().sweep.points) == 14
    arms = [NewArm(id=new_id(), material_id=m, settings={"fan": level}) for m in (key, other) for level in (0, 50, 100)]
    crossed = Crossed(workspace, arms, 1, studied_factor="setting", studied_settings=["fan"])
    crossed.pull([(30.0,), (33.0,), (31.0,), (20.0,), (22.0,), (25.0,)])
    assert (crossed.factors().sweep, [f.levels for f in crossed.factors().factors][1]) == (None, ["0 %", "50 %", "100 %"])
    assert crossed.factors().reason == "'fan' has 3 levels: without replicates each factor needs two"


def test_without_replicates_effects_stand_out_by_their_size(workspace):
    (key, _) = two_materials(workspace)
    runs_of = [{"fan": f, "flow": w, "retraction": r} for f in (0, 100) for w in (90, 110) for r in (1, 3)]
    study = Crossed(
        workspace,
        [NewArm(id=new_id(), material_id=key, settings=s) for s in runs_of],
        1,
        studied_factor="setting",
        studied_settings=["fan", "flow", "retraction"],
    )
    study.pull([(30.0 + 8 * (s["fan"] > 0) + 0.3 * (s["flow"] > 100) + d,) for s, d in zip(runs_of, (0.1, -0.1, 0.2, 0.0, -0.2, 0.1, 0.0, -0.1), strict=True)])
    shown = study.factors()
    assert [e.stands_out for e in shown.effects] == [abs(e.difference) > shown.stands_out_from for e in shown.effects]
    assert (shown.effects[0].stands_out, shown.effects[0].levels, shown.effects[0].ci95) == (True, ["100 %"], None)
