"""Two made-up methods, as unlike tension as the declarations allow, walked from a study to the board by services that do not know them.

`lean`: signed readings, three channels, a tower band as its subject, read in two sessions on two devices.
`sway`: of specimens, two orientations, and a derived quantity of its own.
"""

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest

from assayer.core.errors import EntryError, MissingError
from assayer.core.methods import REGISTRY
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.derived import DERIVED, Derived
from assayer.core.methods.inputs import need
from assayer.core.methods.results import QuantitySpec, Result
from assayer.core.methods.steps import Field, PlainStep
from assayer.core.methods.vocabulary import Bound, Sign, SubjectKind
from assayer.core.shapes.bars import BAR
from assayer.core.stats.verdicts import GoodSide, Margin
from assayer.services.bench import preview, queue, recompute, runs
from assayer.services.bench.requests import NewRun, PreviewRequest, RawField, RunEdit
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.findings import one_test
from assayer.services.reports import dossier
from assayer.services.rigs import methods as method_cards
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewCalibration
from assayer.services.sessions.requests import Place
from assayer.services.stock import materials
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.store.models import Batch, SessionMember

from ..conftest import NOW
from ..support import ACTOR, AT, Lab, channel, material, new_id, reading, rig

TILT = Field("tilt", "tilt", "length", needed=2, usual=4, channel="tilt", sign=Sign.EITHER)
WARM = Field("warm", "temperature", "temperature", needed=2, usual=4, channel="warm", sign=Sign.EITHER)
LOAD = Field("load_hung", "load", "force", channel="load", sign=Sign.ZERO_ALLOWED)
SWING = Field("swing", "swing", "length", usual=2, channel="tilt", sign=Sign.EITHER)


class _Lean(Method):
    def reduce(self, inputs):
        tilt, warm, load = need(inputs, TILT), need(inputs, WARM), need(inputs, LOAD)
        slope = float(np.polyfit(warm, tilt, 1)[0])
        results = [Result("tilt_per_degree", slope, "mm", reading_step=inputs.step("tilt")), Result("tilt_at", tilt[-1], "mm", load=load[-1])]
        return self.made(results, ["leans back"] if slope < 0 else [])


class _Sway(Method):
    def reduce(self, inputs):
        return self.made([Result("reach", float(np.max(np.abs(need(inputs, SWING)))), "mm", reading_step=inputs.step("swing"))])


COMMON = {"after": "own", "reduction_version": 1, "shapes": (BAR,), "formulas": ("k = Δs / ΔT",), "measures": "How far it leans."}
LEAN = _Lean(
    name="lean", label="Lean", procedure_version="lean-1", orientations=("upright",),
    steps=(PlainStep("first", "first session", (TILT, LOAD)), PlainStep("second", "second session", (WARM,))),
    quantities=(QuantitySpec("tilt_per_degree", "tilt per degree", "mm", GoodSide.LOWER), QuantitySpec("tilt_at", "tilt", "mm", GoodSide.NONE, by="load")),
    main="tilt_per_degree", outcomes=(Outcome("fell", "fell over", {"tilt_per_degree": Bound.AT_LEAST}),), subject=SubjectKind.BAND, **COMMON,
)  # fmt: skip
SWAY = _Sway(
    name="sway", label="Sway", procedure_version="sway-1", orientations=("flat", "upright"), steps=(PlainStep("swing", "swing", (SWING,)),),
    quantities=(QuantitySpec("reach", "reach", "mm", GoodSide.LOWER, margin=Margin(0.5, relative=False)),),
    main="reach", outcomes=(Outcome("stuck", "got stuck", {"reach": Bound.AT_MOST}),), **COMMON,
)  # fmt: skip
LEFT = Derived("sway_left", "sway left upright", "sway", "reach", lambda t: t.orientation == "upright", lambda t: t.orientation == "flat", GoodSide.LOWER)
SHOWN = [channel("tilt", "mm", 0.01), channel("warm", "°F", 0.5, dimension="temperature"), channel("load", "kgf", 0.01, dimension="force")]


@pytest.fixture
def lab(workspace, monkeypatch):
    for method in (LEAN, SWAY):
        monkeypatch.setitem(REGISTRY, method.name, method)
    monkeypatch.setitem(DERIVED, LEFT.name, LEFT)
    tests = [NewTest(id=new_id(), method="lean", orientation="upright", replicates=1)]
    tests += [NewTest(id=new_id(), method="sway", orientation=o, replicates=3) for o in ("flat", "upright")]
    made = Lab(workspace, tests)
    made.lean, made.flat, made.upright = made.tests
    made.gauge = rigs.add_rig(workspace, ACTOR, rig(name="Leaning post", methods=["lean", "sway"], channels=SHOWN, places=2))[0]
    made.oven = rigs.add_rig(workspace, ACTOR, rig(name="Oven", methods=["lean"], channels=SHOWN, places=1))[0]
    return made


def first_session(lab, **more):
    readings = [reading("tilt", raw, i) for i, raw in enumerate(("0,4", "0.1", "-0.30"))] + [reading("load_hung", "0")]
    new = NewRun(
        id=new_id(), subject_kind="band", subject_id=new_id(), test_id=lab.lean, rig_version_id=lab.gauge.id, happened_at=AT, readings=readings, complete=False,
        place=Place(session_id=new_id(), position=1), **more,
    )  # fmt: skip
    return new, runs.accept(lab.workspace, ACTOR, new)[0]


def second_session(lab, new, **more):
    warm = [reading("warm", raw, i) for i, raw in enumerate(("14", "32 °F", "12 °C"))]
    change = {
        "rig_version_id": lab.oven.id,
        "readings": warm,
        "complete": True,
        "place": Place(session_id=new_id(), position=0),
        "happened_at": AT + timedelta(hours=2),
    }
    return runs.accept(lab.workspace, ACTOR, new.model_copy(update=change | more))[0]


def test_a_band_read_in_two_sessions_on_two_devices_is_one_run(lab):
    new, opened = first_session(lab)
    assert (opened.results, opened.subject_kind, opened.code) == ([], "band", "band")
    done = second_session(lab, new)
    found = {r.quantity: r for r in done.results}
    # 14 °F, 32 °F, 12 °C; signed tilts, a load of nothing
    assert found["tilt_per_degree"].value == pytest.approx(np.polyfit((-10, 0, 12), (0.4, 0.1, -0.3), 1)[0])
    assert (found["tilt_at@0"].value, found["tilt_at@0"].label) == (-0.3, "tilt at 0 N")
    assert "leans back" in done.remarks
    with lab.workspace.read() as session:
        assert session.query(SessionMember).filter_by(member_id=new.id, member_kind="run").count() == 2


def test_each_reading_keeps_the_calibration_of_its_device(lab):
    new, _ = first_session(lab)
    plain = {r.quantity: r.value for r in second_session(lab, new).results}
    at = NOW - timedelta(days=9)
    told = recompute.calibrate(lab.workspace, ACTOR, lab.gauge.id, NewCalibration(id=new_id(), channel="tilt", factor=1.5, valid_from=at))[0]
    assert {m.quantity: m.new / m.old for m in told.moved} == {"tilt_per_degree": pytest.approx(1.5), "tilt_at@0": pytest.approx(1.5)}
    beside = recompute.calibrate(lab.workspace, ACTOR, lab.oven.id, NewCalibration(id=new_id(), channel="tilt", factor=2.0, valid_from=at))[0]
    assert beside.moved == [], "nothing was tilted on the oven"
    warm = recompute.calibrate(lab.workspace, ACTOR, lab.oven.id, NewCalibration(id=new_id(), channel="warm", factor=2.0, valid_from=at))[0]
    slope = next(m for m in warm.moved if m.quantity == "tilt_per_degree")
    assert slope.new == pytest.approx(1.5 * plain["tilt_per_degree"] / 2)


def test_what_fell_is_at_least_so_tilted_and_only_that(lab):
    new, _ = first_session(lab)
    done = second_session(lab, new, outcome="fell")
    assert {r.quantity: r.bound for r in done.results} == {"tilt_per_degree": "at_least", "tilt_at@0": "exact"}
    assert (done.validity, done.validity_reason) == ("at_least", "fell over")
    back = runs.edit_run(lab.workspace, ACTOR, done.id, RunEdit(outcome=None), done.revision)
    assert {r.bound for r in back.results} == {"exact"}


def test_runs_of_an_arm_or_a_batch_belong_to_their_study(lab, monkeypatch):
    """The same method of an arm, then of a batch: what belongs elsewhere is refused."""
    batch_id = board_batch(lab)
    for kind, right, wrong, words in (("arm", lab.arms[0], new_id(), "no arm"), ("batch", batch_id, new_id(), "no batch")):
        monkeypatch.setitem(REGISTRY, "lean", replace(LEAN, subject=SubjectKind(kind)))
        base = {"subject_kind": kind, "test_id": lab.lean, "rig_version_id": lab.gauge.id, "happened_at": AT, "complete": False}
        kept = runs.accept(lab.workspace, ACTOR, NewRun(id=new_id(), subject_id=right, readings=[reading("tilt", "1")], **base))[0]
        assert (kept.subject_kind, kept.subject_id, kept.specimen_id) == (kind, right, None)
        with pytest.raises(MissingError, match=words):
            runs.accept(lab.workspace, ACTOR, NewRun(id=new_id(), subject_id=wrong, readings=[reading("tilt", "1")], **base))
    monkeypatch.setitem(REGISTRY, "lean", replace(LEAN, subject=SubjectKind.ARM))
    m = material("Else")
    materials.add_material(lab.workspace, ACTOR, m)
    new = NewStudy(id=new_id(), title="u", arms=[NewArm(id=new_id(), material_id=m.id)], tests=[NewTest(id=new_id(), orientation="flat")])
    other = planning.create_study(lab.workspace, ACTOR, new)[0]
    with pytest.raises(EntryError, match="belongs to another study"):
        runs.accept(lab.workspace, ACTOR, NewRun(id=new_id(), subject_id=other.arms[0].id, readings=[reading("tilt", "1")], **base | {"subject_kind": "arm"}))


def board_batch(lab):
    with lab.workspace.read() as session:
        return session.query(Batch).first().id


@pytest.mark.parametrize("kind, words", [("specimen", "is of a band, not of a specimen"), ("arm", "is of a band, not of a arm")])
def test_another_subject_is_refused(lab, kind, words):
    with pytest.raises(EntryError, match=words):
        runs.accept(
            lab.workspace,
            ACTOR,
            NewRun(id=new_id(), subject_kind=kind, subject_id=lab.arms[0], test_id=lab.lean, rig_version_id=lab.gauge.id, happened_at=AT, readings=[]),
        )


def test_signs_are_those_of_the_fields(lab):
    with pytest.raises(EntryError, match="load must not be negative"):
        runs.accept(
            lab.workspace, ACTOR,
            NewRun(id=new_id(), subject_kind="band", subject_id=new_id(), test_id=lab.lean, rig_version_id=lab.gauge.id, happened_at=AT, readings=[reading("load_hung", "-1")], complete=False),
        )  # fmt: skip


def sway(lab, test, arm, values, **more):
    free = lab.specimens(test, lab.arms[arm], "waiting")
    return [
        runs.accept(
            lab.workspace,
            ACTOR,
            NewRun(id=new_id(), subject_id=s, test_id=test, rig_version_id=lab.gauge.id, happened_at=AT, readings=[reading("swing", v)], **more),
        )[0]
        for s, v in zip(free, values, strict=False)
    ]


def test_its_values_reach_board_findings_derived_quantity_ranking_and_dossier(lab):
    for arm, (flat, upright) in enumerate(((("10", "10.2", "9.8"), ("-20", "20.4", "-19.6")), (("5", "5.1", "4.9"), ("15", "15.3", "14.7")))):
        sway(lab, lab.flat, arm, flat)
        sway(lab, lab.upright, arm, upright)
    cell = lab.cell(lab.flat, lab.arms[1])
    assert (cell.group.mean, cell.verdict.word, cell.verdict.margin) == (pytest.approx(5.0), "better", 0.5), "lower is better, by its own margin"
    derived = lab.cell(lab.upright, lab.arms[1]).derived
    assert [(d.name, d.ratio) for d in derived] == [("sway_left", pytest.approx(3.0))]
    assert derived[0].verdict.word == "worse", "3 against 2, and less is better"
    shown = one_test.findings(lab.workspace, lab.upright, "sway_left")
    assert [round(a.ratio.ratio, 6) for a in shown.arms] == [2.0, 3.0]
    specs = [
        CriterionSpec(id=new_id(), test_id=lab.upright, quantity="sway_left", no_use=4, all_needed=1),
        CriterionSpec(id=new_id(), test_id=lab.flat, quantity="reach", no_use=20, all_needed=0),
    ]
    purpose = purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="p", criteria=specs))[0]
    ranked = {r.arm_id: r for r in ranking.rank(lab.workspace, purpose.id).ranked}
    assert ranked[lab.arms[0]].usefulness == {specs[0].id: pytest.approx(2 / 3), specs[1].id: pytest.approx(0.5)}
    assert ranked[lab.arms[1]].usefulness == {specs[0].id: pytest.approx(1 / 3), specs[1].id: pytest.approx(0.75)}
    options = {(o.test_id, o.quantity): o.label for o in purposes.criterion_options(lab.workspace, lab.study.id).items}
    assert options[lab.upright, "sway_left"] == "sway left upright"
    assert (lab.flat, "sway_left") not in options
    assert {o.quantity for o in purposes.criterion_options(lab.workspace, lab.study.id).items if o.derived} == {"sway_left"}
    material = lab.study.arms[1].material.id
    history = {(g.test_id, g.quantity): g.mean for g in dossier.dossier(lab.workspace, material).history}
    assert history[lab.flat, "reach"] == pytest.approx(5.0)


def test_bounds_of_either_test_bound_the_derived_quantity(lab):
    sway(lab, lab.flat, 0, ("10", "10.2", "9.8"))
    sway(lab, lab.upright, 0, ("20", "20.4", "19.6"), outcome="stuck")
    assert lab.cell(lab.upright, lab.arms[0]).derived[0].bound == "at_most"
    assert lab.cell(lab.upright, lab.arms[0]).group.at_most == 3
    assert any("upper bounds" in n for n in lab.cell(lab.upright, lab.arms[0]).notes)


def test_it_is_previewed_queued_and_has_its_card_like_any_other(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    body = PreviewRequest(test_id=lab.flat, rig_version_id=lab.gauge.id, specimen_id=specimen, readings=[RawField(field="swing", raw="-12.5")])
    seen = preview.preview_entry(lab.workspace, body)
    assert (seen.reduction.results[0].value, seen.errors) == (12.5, [])
    assert {t.label for t in queue.waiting_tests(lab.workspace).items} >= {"Sway"}
    cards = {m.name: m for m in method_cards.declarations(lab.workspace).methods}
    assert [f.name for s in cards["lean"].steps for f in s.fields] == ["tilt", "load_hung", "warm"]
    assert [s.kind for s in cards["lean"].steps] == ["plain", "plain"]


def test_a_step_more_than_is_declared_is_named(lab):
    other = replace(SWAY, name="sway")
    assert other.field("swing") is SWING
    with pytest.raises(EntryError, match="Sway has no field 'tilt'"):
        runs.accept(
            lab.workspace, ACTOR,
            NewRun(id=new_id(), subject_id=lab.specimens(lab.flat, lab.arms[0])[0], test_id=lab.flat, rig_version_id=lab.gauge.id, happened_at=AT, readings=[reading("tilt", "1")]),
        )  # fmt: skip
