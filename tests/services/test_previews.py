"""What is said of an entry before it is kept: its result, its siblings, what is hardly meant."""

import pytest

from assayer.core.errors import QuestionError
from assayer.services.bench import preview, runs
from assayer.services.bench.requests import PreviewRequest, RawField, RunEdit
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Actor, Workspace

from ..support import ACTOR, Lab, channel, jack, new_id, reading, run

TOMAS = Actor("Tomas", "Europe/Berlin")
AREA = 4.02 * 3.97
G = 9.80665


# ---- previews ------------------------------------------------------------------------------------


def ask(lab, specimen, fields, rig_id=None, **more):
    body = PreviewRequest(
        test_id=lab.flat, rig_version_id=rig_id or lab.rig, specimen_id=specimen, readings=[RawField(field=f, position=i, raw=v) for f, i, v in fields], **more
    )
    return preview.preview_entry(lab.workspace, body)


WHOLE = [("width", 0, "4.02"), ("thickness", 0, "3.97"), ("peak_force", 0, "60")]


def test_a_preview_says_what_the_entry_will_be(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    seen = ask(lab, specimen, WHOLE)
    assert seen.reduction.results[0].value == pytest.approx(60 * G / AREA)
    assert seen.checks[0].level == "plausible"
    grip = ask(lab, specimen, WHOLE, outcome="grip").reduction.results
    assert {r.quantity: r.bound for r in grip} == {"strength": "at_least", "peak_force": "at_least"}
    wrong = ask(lab, specimen, [("width", 0, "4,0,2"), ("thickness", 1, "-3"), *WHOLE[2:]])
    assert [(e.field, e.row) for e in wrong.errors] == [("width", 0), ("thickness", 1)]
    assert wrong.reduction is None
    missing = ask(lab, specimen, WHOLE[:2])
    assert (missing.reduction, missing.errors) == (None, []), "what is not there yet is no mistake"
    blank = ask(lab, specimen, [*WHOLE, ("width", 1, "  ")])
    assert blank.reduction is not None


def test_a_preview_points_out_scatter_and_what_its_siblings_are(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[3]
    lab.accept(lab.flat, lab.arms[0], ["60", "62"])
    odd = {c.text: c.level for c in ask(lab, specimen, [*WHOLE[:2], ("peak_force", 0, "90")]).checks}
    assert odd["+48 % from the mean of the other 2 of this arm"] == "caution"
    assert not any("from the mean" in c.text for c in ask(lab, specimen, [*WHOLE[:2], ("peak_force", 0, "75")]).checks)
    assert not any("from the mean" in c.text for c in ask(lab, specimen, [*WHOLE[:2], ("peak_force", 0, "90")], blind=True).checks)
    wide = {c.text: c.level for c in ask(lab, specimen, [("width", 0, "4.02"), ("width", 1, "4.36"), *WHOLE[1:]]).checks}
    assert wide["width spread 8.1 %"] == "caution"
    # the reading that stands apart is meant, wherever it was taken
    odd_one = [("width", 0, "4.36"), ("width", 1, "4.02"), ("width", 2, "4.03")]
    (doubt,) = (c for c in ask(lab, specimen, [*odd_one, *WHOLE[1:]]).checks if c.level == "caution")
    assert (doubt.field, doubt.position) == ("width", 0)
    near = {c.text: c.level for c in ask(lab, specimen, [("width", 0, "4.02"), ("width", 1, "4.30"), *WHOLE[1:]]).checks}
    assert near["width spread 6.7 %"] == "fine"


def test_siblings_left_out_or_taken_back_are_no_measure(lab):
    lab.accept(lab.flat, lab.arms[0], ["90"], validity="left_out", validity_reason="slipped in the grips", unchecked=True)
    first, _ = lab.accept(lab.flat, lab.arms[0], ["30", "31"], unchecked=True)
    specimen = lab.specimens(lab.flat, lab.arms[0])[3]
    assert [c.text for c in ask(lab, specimen, WHOLE).checks if "from the mean" in c.text] == ["+97 % from the mean of the other 2 of this arm"]
    runs.retract(lab.workspace, ACTOR, first.id)
    assert not any("from the mean" in c.text for c in ask(lab, specimen, WHOLE).checks), "one other is no measure"


@pytest.mark.parametrize(
    ("own", "theirs", "force", "said"),
    [
        ("gauge", "gauge", "30", True),
        ("grip", "gauge", "30", False),
        ("grip", "gauge", "90", True),
        ("gauge", "grip", "90", False),
        ("gauge", "grip", "30", True),
    ],
)
def test_what_a_bound_explains_is_no_contradiction(lab, own, theirs, force, said):
    """60 at the gauge against 61 is nothing; at least 30 may be 61, and 90 may be what at least 61 was."""
    first, second, specimen = lab.specimens(lab.flat, lab.arms[0])[:3]
    for sibling, peak in ((first, "60"), (second, "62")):
        runs.accept(lab.workspace, ACTOR, run(sibling, lab.flat, lab.rig, peak, outcome=theirs))
    checks = ask(lab, specimen, [*WHOLE[:2], ("peak_force", 0, force)], outcome=own).checks
    assert any("from the mean of the other 2" in c.text for c in checks) is said


def test_an_open_run_is_previewed_with_what_it_holds(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    opened = run(specimen, lab.flat, lab.rig, None, complete=False)
    runs.accept(lab.workspace, ACTOR, opened)
    seen = ask(lab, specimen, WHOLE[2:], run_id=opened.id)
    assert seen.reduction.results[0].value == pytest.approx(60 * G / AREA)
    anew = ask(lab, specimen, [("width", 0, "4.22"), *WHOLE[2:]], run_id=opened.id)
    assert anew.reduction.results[0].value == pytest.approx(60 * G / (4.22 * 3.97)), "typed anew, the place counts once"


def test_implied_decimals_are_said(lab):
    shown = [channel("force", "N", 1), channel("length", "mm", 0.01, decimals=2)]
    frame = jack(lab.workspace, name="Digits", channels=shown).id
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    seen = ask(lab, specimen, [("width", 0, "402"), ("thickness", 0, "3.97"), ("peak_force", 0, "590")], frame)
    assert [(r.field, r.text) for r in seen.read_as] == [("width", "typed 402: read as 4.02 mm")]
    assert seen.reduction.results[0].value == pytest.approx(590 / AREA)


# ---- questions at their edges --------------------------------------------------------------------


@pytest.mark.parametrize(
    "fields, likely",
    [
        ([("width", 0, "4.7")], []),
        ([("width", 0, "4.9")], [None]),
        ([("width", 0, "40.2")], ["4.02"]),
        ([("width", 0, "4.02"), ("width", 1, "4.30")], []),
        ([("width", 0, "4.02"), ("width", 1, "4.04"), ("width", 2, "4.50")], [None]),
        ([("width", 0, "3.1")], [None]),
    ],
)
def test_dimensions_are_held_against_the_shape_and_their_siblings(workspace, fields, likely):
    """A fifth off the shape's nominal, or 8 % off its siblings, is asked about."""
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=1)])
    lab.flat = lab.tests[0]
    nominal = next(iter(lab.study.tests)).shape.dimensions["width"]
    scaled = [(f, i, f"{float(v) * nominal / 4.0:.3f}") for f, i, v in fields]
    asked = ask(lab, lab.specimens(lab.flat, lab.arms[0])[0], [*scaled, ("thickness", 0, "3.97"), ("peak_force", 0, "60")]).questions
    found = [None if q.likely is None else f"{float(q.likely) / nominal * 4.0:.2f}" for q in asked]
    assert found == [x if x is None else f"{float(x):.2f}" for x in likely]


def test_a_question_that_is_confirmed_is_not_asked_again_and_another_value_is(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    heavy = run(specimen, lab.flat, lab.rig, "440")
    with pytest.raises(QuestionError) as asked:
        runs.accept(lab.workspace, ACTOR, heavy)
    key = asked.value.questions[0].key
    with pytest.raises(QuestionError):
        runs.accept(lab.workspace, ACTOR, heavy.model_copy(update={"confirmed": ["something else"]}))
    assert runs.accept(lab.workspace, ACTOR, heavy.model_copy(update={"confirmed": [key]}))[1]
    other = lab.specimens(lab.flat, lab.arms[0])[1]
    with pytest.raises(QuestionError):
        runs.accept(lab.workspace, ACTOR, run(other, lab.flat, lab.rig, "441", confirmed=[key]))


def test_what_came_without_the_server_keeps_its_question_as_a_remark(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    kept = runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, "440", unchecked=True))[0]
    assert any(r.startswith("entered without the server: ") and "PLA" in r for r in kept.remarks)
    edited = runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(outcome="gauge"), kept.revision)
    assert any(r.startswith("entered without the server: ") for r in edited.remarks), "it stays through every reduction"


def test_what_cannot_be_reduced_is_told_at_its_field_and_what_is_missing_is_not(lab):
    """A load of nothing is an error of that field; a load not typed yet is none."""
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    assert ask(lab, specimen, WHOLE[:2]).errors == []
    shear = jack(lab.workspace, name="Zero", channels=[channel("force", "N", 1), channel("length", "mm", 0.01)]).id
    seen = ask(lab, specimen, [*WHOLE[:-1], ("peak_force", 0, "0")], shear)
    assert [e.field for e in seen.errors] == ["peak_force"]
    assert seen.reduction is None


@pytest.fixture
def hard(data_folder, clock):
    workspace = Workspace(data_folder, clock, durable=False)
    needle = [channel("hardness", "Shore D", 0.5, dimension="hardness", high=100)]
    lab = Lab(workspace, [NewTest(id=new_id(), method="hardness", orientation="flat", replicates=3)], name="Needle", methods=["hardness"], channels=needle)
    lab.flat = lab.tests[0]
    yield lab
    workspace.close()


@pytest.mark.parametrize(
    "typed, likely",
    [
        (["70", "71", "7.1"], "71"),
        (["70", "71", "76.5"], None),
        (["70", "71", "77"], ""),
        (["70", "7.1"], None),
        (["70", "71", "710"], "71"),
    ],
)
def test_an_indent_far_from_its_siblings_is_asked_about(hard, typed, likely):
    """8 % off the middle of them all, so that one slip casts no doubt on the others; two alone say nothing, for a block has no nominal hardness."""
    specimen = hard.specimens(hard.flat, hard.arms[0])[0]
    asked = [q for q in ask(hard, specimen, [("indents", i, v) for i, v in enumerate(typed)]).questions if q.row is not None]
    if likely is None:
        assert asked == []
    else:
        assert [(q.field, q.row, q.likely) for q in asked] == [("indents", len(typed) - 1, likely or None)]
        assert f"but the others are {', '.join(f'{float(v):g}' for v in typed[:-1])}:" in asked[0].text


def test_hardness_goes_from_the_indents_to_the_board(hard):
    for specimen, indents in zip(hard.specimens(hard.flat, hard.arms[0]), (("70", "72"), ("71", "75")), strict=False):
        entry = run(specimen, hard.flat, hard.rig, None, (), (), readings=[reading("indents", v, i) for i, v in enumerate(indents)])
        runs.accept(hard.workspace, ACTOR, entry)
    cell = hard.cell(hard.flat, hard.arms[0])
    assert (cell.tested, cell.group.n, cell.group.mean) == (2, 2, 72.0)
    assert cell.group.sd == pytest.approx(2**0.5)


def test_a_deflection_without_its_load_is_told_at_its_field(data_folder, clock):
    workspace = Workspace(data_folder, clock, durable=False)
    supports = [channel("force", "N", 1), channel("length", "mm", 0.01), channel("deflection", "mm", 0.01)]
    lab = Lab(
        workspace, [NewTest(id=new_id(), method="stepped-bending", orientation="flat", replicates=2)], name="Supports", methods=["stepped-bending"],
        channels=supports, geometry={"span": 56.0},
    )  # fmt: skip
    lab.flat = lab.tests[0]
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    fields = [RawField(field="width", raw="10"), RawField(field="thickness", raw="4"), RawField(field="deflection", raw="0.6", after=5.0)]
    asked = PreviewRequest(test_id=lab.flat, rig_version_id=lab.rig, specimen_id=specimen, readings=fields)
    assert [(e.field, e.text) for e in preview.preview_entry(workspace, asked).errors] == [
        ("deflection", "deflection: each reading needs its load, greater than 0 N")
    ]
    loaded = asked.model_copy(update={"readings": [*fields[:2], fields[2].model_copy(update={"load": 20.0})]})
    assert preview.preview_entry(workspace, loaded).errors == []
    workspace.close()
