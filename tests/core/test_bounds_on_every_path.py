"""Every outcome of every method bounds its results the same on the page, from a file, in a notebook and on the command line."""

import json

import pytest

import assayer
from assayer.core.methods import REGISTRY
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.own import OwnDefinition, OwnInput, OwnOutcome, OwnResult, check_definition, definition_of, own_method
from assayer.core.methods.vocabulary import Bound, Validity
from assayer.formats.readings.run_file import read_run

READINGS = {
    "tension": {"width": 5, "thickness": 4, "peak_force": 600},
    "shear": {"width": 5, "thickness": 5, "peak_force": 600},
    "torsion": {"diameter": 8, "greatest_torque": 2.2, "angle_at_break": 90},
    "bending": {"width": 10, "thickness": 4, "span": 64, "peak_force": 49},
    **{name: {"width_under_notch": 8, "thickness": 4, "energy": 0.4} for name in ("impact", "impact-izod", "impact-d256")},
    "functional-part": {"peak_force": 331, "mass": 10.2, "print_time": 7112},
    "heat-ramp": {"noticed_at": 70, "noticed_step": 2},
    "deflection-temperature": {"width": 10, "thickness": 4, "span": 64, "series": [[52, 0.21], [58, 0.42]]},
    "warp": {"length": 180, "corners": [0.5, 0.7, 0.6, 0.6]},
}
BOUNDING = [(name, o.name) for name, method in REGISTRY.items() for o in method.outcomes if o.bounds]


@pytest.mark.parametrize("name, outcome", BOUNDING)
def test_an_outcome_bounds_its_results_from_a_file_and_in_a_notebook(name, outcome, tmp_path):
    method = REGISTRY[name]
    run = {"method": name, "outcome": outcome, "readings": READINGS[name]}
    plain = method.reduce(read_run(run).inputs)
    bounded = {r.quantity for r in plain.results} & set(method.outcome(outcome).bounds)
    assert bounded, "the readings give what the outcome bounds"
    path = tmp_path / "run.json"
    path.write_text(json.dumps(run))
    for found in (read_run(run).reduce(), assayer.reduce(name, path), assayer.reduce(name, run)):
        for result in found.results:
            wanted = method.outcome(outcome).bounds.get(result.quantity, Bound.EXACT)
            own = next(r.bound for r in plain.results if r.key == result.key)
            assert result.bound is (wanted if own is Bound.EXACT else own), result.key
            assert method.bound_of(result, outcome, Validity.COUNTS) is result.bound, "asked again it stays"


def test_a_bar_that_was_not_broken_is_at_least():
    found = assayer.reduce("impact", READINGS["impact"] | {"break_type": "N"})
    assert {r.quantity: str(r.bound) for r in found.results} == {"impact_strength": "at_least", "net_energy": "at_least", "energy_per_notch_length": "at_least"}
    assert assayer.reduce("impact", READINGS["impact"] | {"break_type": "C"}).get("impact_strength").bound is Bound.EXACT


# ---- tests of one's own -----------------------------------------------------------------------------

INPUTS = (OwnInput("s", "path", "length"), OwnInput("f", "load", "force"), OwnInput("w", "width", "length"))
RESULTS = (
    OwnResult("strength", "strength", "f / w"), OwnResult("give", "give", "s / f"), OwnResult("shape", "shape", "s / w"),
    OwnResult("twice", "through another", "1 / give"), OwnResult("bow", "bow", "abs(f - 10 N)"),
)  # fmt: skip


def own(*outcomes, results=RESULTS):
    return own_method("own-x-1", "own-x-1", OwnDefinition("Pull", "", INPUTS, results, outcomes))


def bounds(method, outcome, validity=Validity.COUNTS, **values):
    values = {"s": 2.0, "f": 5.0, "w": 4.0} | values
    found = method.with_bounds(method.reduced(Inputs([Entry(n, v) for n, v in values.items()], outcome=outcome)), outcome, validity)
    return {r.quantity: str(r.bound) for r in found.results}, found.warnings


def test_a_result_that_falls_with_the_bounded_reading_is_bounded_the_other_way():
    method = own(OwnOutcome("held", Bound.AT_LEAST), OwnOutcome("slack", Bound.AT_MOST), OwnOutcome("short", Bound.AT_LEAST, input="s"), OwnOutcome("broke"))
    found, warnings = bounds(method, "held")
    assert found == {"strength": "at_least", "give": "at_most", "shape": "exact", "twice": "at_least"}
    assert "bow" in warnings[0], "|f − 10 N| falls and rises: it is no bound of anything"
    assert bounds(method, "slack")[0] == {"strength": "at_most", "give": "at_least", "shape": "exact", "twice": "at_most"}
    assert bounds(method, "short")[0] == {"strength": "exact", "give": "at_least", "shape": "at_least", "twice": "at_most", "bow": "exact"}
    assert set(bounds(method, "broke")[0].values()) == {"exact"}
    assert bounds(method, "broke", Validity.AT_LEAST)[0]["give"] == "at_most", "also where a person calls the run a bound"
    # beyond the turning point it only rises
    assert bounds(method, "held", f=20.0)[0]["bow"] == "at_least"


def test_an_outcome_names_an_input_that_is_there_and_older_definitions_are_read():
    faults = check_definition(OwnDefinition("Pull", "", INPUTS, RESULTS, (OwnOutcome("held", Bound.AT_LEAST, input="x"),))).faults
    assert [(f.part, f.text) for f in faults] == [("outcomes", "there is no input 'x'")]
    older = {
        "label": "Pull", "measures": "", "shapes": [], "orientations": ["flat"], "own_parts": True, "minutes": 4.0, "typical_cv": 0.08,
        "inputs": [{"name": "f", "label": "load", "dimension": "force", "needed": 1, "usual": 1, "sign": "above zero"}],
        "results": [{"name": "q", "label": "q", "formula": "f", "unit": "", "good_side": "higher", "target": 0.0, "margin": 0.1, "margin_relative": True}],
        "outcomes": [{"label": "held", "bound": "at_least", "results": []}],
    }  # fmt: skip
    assert (definition_of(older).outcomes[0].input, definition_of(older).inputs[0].scatter) == ("", 0.08)


# ---- temperatures --------------------------------------------------------------------------------


def heated(formula, unit="", **values):
    inputs = (OwnInput("t", "temperature", "temperature", sign="either"), OwnInput("u", "other", "temperature", sign="either"))
    method = own_method("own-t-1", "own-t-1", OwnDefinition("Heat", "", inputs, (OwnResult("q", "q", formula, unit),)))
    result = method.reduce(Inputs([Entry(n, v) for n, v in ({"t": 100.0, "u": 20.0} | values).items()])).results[0]
    return pytest.approx(result.value), result.unit


@pytest.mark.parametrize(
    "formula, unit, value, shown",
    [
        ("t", "°F", 212, "°F"), ("t", "", 100, "°C"), ("t", "K", 373.15, "K"), ("t - 68 °F", "", 80, "K"), ("t - u", "°F", 144, "°F"), ("t - u", "°C", 80, "°C"),
        ("(t + u) / 2", "°F", 140, "°F"), ("mean(t; u)", "", 60, "°C"), ("max(t; u)", "K", 373.15, "K"), ("t + 5 K", "", 105, "°C"), ("t - 9 °F - 5 K", "", 112.77778 - 5, "K"),
        ("(t - absolute_zero) / (u - absolute_zero)", "", 373.15 / 293.15, "1"), ("0.25 * t + u * 0.75", "°C", 40, "°C"), ("spread(t)", "K", 0, "K"),
    ],
)  # fmt: skip
def test_temperatures_convert_with_their_zero_and_differences_without(formula, unit, value, shown):
    assert heated(formula, unit) == (value, shown)


@pytest.mark.parametrize(
    "formula, words",
    [
        ("t + u", "cannot be added"),
        ("t * t", "no product"),
        ("1 / t", "no product"),
        ("sqrt(t)", "no product"),
        ("2 * t", "cannot be added"),
        ("sum(t)", "cannot be added"),
    ],
)
def test_what_has_no_meaning_for_temperatures_is_refused(formula, words):
    faults = check_definition(
        OwnDefinition("Heat", "", (OwnInput("t", "t", "temperature"), OwnInput("u", "u", "temperature")), (OwnResult("q", "q", formula),))
    ).faults
    assert words in faults[0].text


def test_a_stored_test_whose_formula_is_no_longer_allowed_opens_and_says_so():
    definition = OwnDefinition(
        "Heat", "", (OwnInput("t", "t", "temperature"), OwnInput("f", "f", "force")), (OwnResult("ok", "ok", "f"), OwnResult("q", "q", "t * f", "N"))
    )
    method = own_method("own-h-1", "own-h-1", definition, stored=True)
    found = method.reduce(Inputs([Entry("t", 100.0), Entry("f", 5.0)]))
    assert ([r.quantity for r in found.results], found.warnings) == (["ok"], ["no q: its formula has to be changed, in a new version of the test"])


def test_a_decimal_comma_between_the_values_of_a_function_is_asked_about():
    for text in ("max(3,5)", "min(t; 3,5 K)"):
        faults = check_definition(OwnDefinition("X", "", (OwnInput("t", "t", "temperature step"),), (OwnResult("q", "q", text),))).faults
        assert "one number or two" in faults[0].text
    assert not check_definition(OwnDefinition("X", "", (OwnInput("t", "t", "number"),), (OwnResult("q", "q", "max(3; t) + 3,5 + sqrt(2,25)"),))).faults
