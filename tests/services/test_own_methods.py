"""A test of one's own through the services: defined, planned, measured, on the board; another version; another who opens the notebook."""

import pytest

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.core.methods import known
from assayer.core.methods import method as find_method
from assayer.services.bench import runs
from assayer.services.bench.requests import NewRun
from assayer.services.own_methods import own_methods
from assayer.services.own_methods.requests import NewOwnMethod, OwnDefinitionIn, OwnInputIn, OwnOutcomeIn, OwnResultIn, OwnTrial
from assayer.services.rigs import rigs
from assayer.services.rigs.methods import declarations
from assayer.services.studies import listing
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Workspace

from ..support import ACTOR, AT, Lab, channel, new_id, reading, rig


def peel(**more):
    return OwnDefinitionIn(**{
        "label": "Peel", "measures": "What a glued strip bears.", "shapes": ["bar"], "orientations": ["flat"], "own_parts": False,
        "inputs": [OwnInputIn(name="load", label="load", dimension="force"), OwnInputIn(name="width", label="width", dimension="length", usual=3)],
        "results": [OwnResultIn(name="peel", label="peel strength", formula="load / width")],
        "outcomes": [OwnOutcomeIn(label="peeled off"), OwnOutcomeIn(label="tore", bound="at_least")],
    } | more)  # fmt: skip


def define(workspace, key=None, **more):
    return own_methods.add_own(workspace, ACTOR, NewOwnMethod(id=key or new_id(), definition=peel(**more)))[0]


class Workbench(Lab):
    """Two materials, a test of one's own, a rig that serves it."""

    def __init__(self, workspace, method):
        super().__init__(workspace, [NewTest(id=new_id(), method=method, orientation="flat", replicates=3)])
        shown = [channel("force", "kgf", 0.1), channel("length", "mm", 0.01)]
        self.own_rig = rigs.add_rig(workspace, ACTOR, rig(name="Spring balance", methods=[method], channels=shown))[0]

    def enter(self, load, arm=0, **more):
        specimen = self.specimens(self.tests[0], self.arms[arm], "waiting")[0]
        typed = [reading("load", load), *(reading("width", w, i) for i, w in enumerate(("10.0", "12.0")))]
        new = NewRun(
            id=new_id(),
            subject_id=specimen,
            test_id=self.tests[0],
            rig_version_id=self.own_rig.id,
            happened_at=AT,
            readings=typed,
            **{"outcome": "peeled off"} | more,
        )
        return runs.accept(self.workspace, ACTOR, new)[0]


def test_a_test_of_ones_own_goes_from_its_formula_to_a_verdict(workspace):
    made = define(workspace)
    assert (made.number, made.newest, made.tests, made.method) == (1, True, 0, f"own-{made.id[-12:]}-1")
    bench = Workbench(workspace, made.method)
    first = bench.enter("11")
    found = first.results[0]
    assert (found.quantity, found.label, found.unit) == ("peel", "peel strength", "N/mm")
    assert found.value == pytest.approx(11 * 9.80665 / 11), "in the unit that the rig shows, over the mean width"
    bench.enter("11.4"), bench.enter("10.8")
    for load in ("22", "22.3", "21.8"):
        bench.enter(load, 1)
    column = bench.column(bench.tests[0])
    assert (column.label, column.quantity) == ("Peel", "peel")
    assert [None if c.verdict is None else c.verdict.word for c in column.cells] == [None, "better"]
    assert own_methods.list_own(workspace).items[0].tests == 1


def test_outcomes_of_ones_own_make_bounds_and_what_is_missing_is_named(workspace):
    bench = Workbench(workspace, define(workspace).method)
    assert [r.bound for r in bench.enter("11", outcome="tore").results] == ["at_least"]
    specimen = bench.specimens(bench.tests[0], bench.arms[0], "waiting")[0]
    new = NewRun(id=new_id(), subject_id=specimen, test_id=bench.tests[0], rig_version_id=bench.own_rig.id, happened_at=AT, readings=[reading("load", "11")])
    with pytest.raises(EntryError, match="width: at least one reading is needed") as error:
        runs.accept(workspace, ACTOR, new)
    assert error.value.field == "width"


def test_a_new_version_leaves_what_was_planned_and_is_served_by_the_same_rigs(workspace):
    first = define(workspace)
    bench = Workbench(workspace, first.method)
    before = bench.enter("11").results[0].value
    told = peel(results=[OwnResultIn(name="peel", label="peel strength", formula="2 * load / width")])
    second = own_methods.add_own(workspace, ACTOR, NewOwnMethod(id=new_id(), family=first.family, definition=told))[0]
    assert (second.number, second.family, second.method) == (2, first.family, first.method[:-1] + "2")
    assert bench.enter("11").results[0].value == pytest.approx(before), "planned with the first version, measured with it"
    assert find_method(second.method).formulas == ("peel = 2 * load / width",)
    assert second.method in next(r for r in rigs.list_rigs(workspace).items if r.rig_id == bench.own_rig.rig_id).methods
    marks = {m.name: (m.own.number, m.own.offered) for m in declarations(workspace).methods if m.own}
    assert marks == {first.method: (1, False), second.method: (2, True)}
    with pytest.raises(EntryError, match="no such test to make a version of"):
        own_methods.add_own(workspace, ACTOR, NewOwnMethod(id=new_id(), family=new_id(), definition=told))


def test_whoever_opens_the_notebook_knows_its_tests(workspace):
    made = define(workspace)
    bench = Workbench(workspace, made.method)
    told = bench.enter("11")
    from assayer.core import methods

    methods._OWN.pop(made.method)
    assert not known(made.method)
    other = Workspace(workspace.folder, durable=False)
    try:
        assert known(made.method)
        assert listing.get_study(other, bench.study.id).tests[0].label == "Peel"
        assert runs.retract(other, ACTOR, told.id).results == []
    finally:
        other.close()


def test_the_same_id_again_changes_nothing_and_another_definition_is_refused(workspace):
    key = new_id()
    first = define(workspace, key)
    again, fresh = own_methods.add_own(workspace, ACTOR, NewOwnMethod(id=key, definition=peel()))
    assert (again, fresh) == (first, False)
    with pytest.raises(ConflictError, match="another test already has this id"):
        define(workspace, key, label="Other")
    with pytest.raises(EntryError, match="cannot be added") as error:
        define(workspace, results=[OwnResultIn(name="peel", label="peel", formula="load + width")])
    assert (error.value.field, error.value.row) == ("results", 1)
    assert len(own_methods.list_own(workspace).items) == 1


def test_a_withdrawn_test_is_not_offered_and_comes_back(workspace):
    made = define(workspace)

    def offered():
        return [m.own.offered for m in declarations(workspace).methods if m.own]

    assert offered() == [True]
    gone = own_methods.withdraw_own(workspace, ACTOR, made.id, False)
    assert (offered(), gone.withdrawn_at is not None, gone.revision) == ([False], True, 2)
    assert own_methods.withdraw_own(workspace, ACTOR, made.id, False).revision == 2, "twice is once"
    assert own_methods.withdraw_own(workspace, ACTOR, made.id, True).revision == 3
    assert offered() == [True]
    with pytest.raises(MissingError):
        own_methods.withdraw_own(workspace, ACTOR, new_id(), True)


def test_samples_are_tried_while_one_writes():
    trial = own_methods.try_definition(OwnTrial(definition=peel(label=""), samples={"load": ["11 kgf"], "width": ["10", "12,0"]}))
    assert [(f.part, f.start) for f in trial.faults] == [("label", None)]
    assert [(f.name, f.unit) for f in trial.figures] == [("peel", "N/mm")]
    assert trial.figures[0].value == pytest.approx(9.80665), "a name that is still missing is no matter for the figures"
    wrong = own_methods.try_definition(OwnTrial(definition=peel(), samples={"load": ["11 mm"], "width": ["x"]}))
    assert set(wrong.wrong) == {"load", "width"}
    assert (wrong.figures[0].value, "load: at least one" in wrong.figures[0].text) == (None, True)
    faulty = own_methods.try_definition(OwnTrial(definition=peel(results=[OwnResultIn(name="peel", label="p", formula="load / breadth")])))
    assert [(f.part, f.index, f.start, f.end) for f in faulty.faults] == [("results", 0, 7, 14)]
    assert "width" in own_methods.language().grammar
    assert {"sqrt", "mean"} <= set(own_methods.language().functions)
