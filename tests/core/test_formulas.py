"""The language of own formulas: what it computes, what it refuses and where; it neither crashes nor hangs on anything."""

import math
import os
import re

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from assayer.core.errors import EntryError
from assayer.core.formulas.dimensions import FORCE, LENGTH, MASS, NUMBER, TIME, UNITS, natural_unit, of_dimension, unit_named
from assayer.core.formulas.errors import FormulaError
from assayer.core.formulas.formula import CONSTANTS, FUNCTIONS, check_formula
from assayer.core.formulas.grammar import DEEPEST, LONGEST, parse
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.own import OwnDefinition, OwnInput, OwnOutcome, OwnResult, check_definition, definition_of, own_method
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.quantities.units import DIMENSIONS
from assayer.core.stats.verdicts import GoodSide

NAMES = {"f": FORCE, "w": LENGTH, "t": LENGTH, "m": MASS, "n": NUMBER, "s_time": TIME}
READINGS = {"f": [100e6], "w": [10.0, 12.0], "t": [4.0], "m": [50.0], "n": [3.0], "s_time": [2.0]}


def value(text, unit=None):
    formula = check_formula(text, NAMES)
    dim, factor = UNITS[unit or natural_unit(formula.dim)]
    assert dim == formula.dim
    return formula.value(READINGS) / factor


@pytest.mark.parametrize(
    "text, unit, expected",
    [
        ("f / (w * t)", "MPa", 100 / 44), ("f/w/t", "MPa", 100 / 44), ("f", "N", 100), ("f", "kgf", 100 / 9.80665), ("m * gravity * 250 mm", "J", 0.05 * 9.80665 * 0.25),
        ("3 * f * 64 mm / (2 * w * t²)", "MPa", 3 * 100 * 64 / (2 * 11 * 16)), ("2 + 3 * 4 ^ 2", "1", 50), ("-2 ^ 2", "1", -4), ("2 ^ -1", "1", 0.5),
        ("2 ^ 3 ^ 2", "1", 512), ("w ^ -2 * w ^ 3", "mm", 11), ("w ^ (-1/2) * w ^ 1.5", "mm", 11), ("w ^ 12 / w ^ 11", "mm", 11), ("(2 + 3) * 4", "1", 20), ("8 - 3 - 2", "1", 3), ("1,5 * 2", "1", 3), (".5 + 1.", "1", 1.5), ("1e-3 * 2", "1", 0.002),
        ("min(w)", "mm", 10), ("max(w)", "mm", 12), ("mean(w)", "mm", 11), ("sum(w)", "mm", 22), ("count(w)", "1", 2), ("first(w)", "mm", 10), ("last(w)", "mm", 12),
        ("median(w; t; 5 mm)", "mm", 5), ("spread(w)", "mm", math.sqrt(2)), ("spread(t)", "mm", 0), ("min(w; t)", "mm", 4), ("abs(t - w)", "mm", 7),
        ("sqrt(w * t)", "mm", math.sqrt(44)), ("root(w³; 3)", "mm", 11), ("w ^ 0.5 * t ^ (1/2)", "mm", math.sqrt(44)), ("sin(30 °)", "1", 0.5), ("cos(pi / 3)", "1", 0.5),
        ("atan(1) * 4", "1", math.pi), ("ln(exp(2))", "1", 2), ("log10(1000)", "1", 3), ("f * 2 s / m", "m/s", 4000), ("f / (1 kN)", "1", 0.1), ("w × t ÷ 2", "mm²", 22),
        ("f / (1 N/mm)", "mm", 100), ("+w − t", "mm", 7), ("m / (w * t * 80 mm)", "g/cm³", 1e3 * 50 / 3520), ("f * w", "N·m", 1.1), ("n ^ n", "1", 27),
    ],
)  # fmt: skip
def test_formulas_give_what_they_say(text, unit, expected):
    assert value(text, unit) == pytest.approx(expected, rel=1e-12)


@pytest.mark.parametrize(
    "text, at, words",
    [
        ("f + w", "f + w", "N cannot be added to mm"), ("2 * (w - f)", "w - f", "N cannot be taken from mm"), ("w + 1", "w + 1", "mm cannot be added to a plain number"),
        ("f / wide", "wide", "there is no 'wide': there is f, w, t"), ("sin(w)", "w", "not mm"), ("w ^ n", "n", "must be a number that stands there"),
        ("2 ^ w", "w", "a plain number, not mm"), ("w ^ 20", "w ^ 20", "nothing that is measured"), ("root(w; n)", "n", "a whole number from 2 to 12"),
        ("root(w; 1,5)", "1,5", "a whole number"), ("min(w; f)", "f", "N beside mm"), ("foo(w)", "foo", "there is no function 'foo'"), ("sqrt(w; t)", "sqrt(w; t)", "takes 1 value"),
        ("root(w)", "root(w)", "takes 2 values"), ("w t", "t", "an operator is missing"), ("w (t)", "w", "there is no function 'w'"), ("2 foo", "foo", "no unit; to multiply"),
        ("(w + t", "(", "a ')' is missing"), ("w + t)", ")", "not expected here"), ("min(w, t)", ",", "has no meaning"), ("w; t", ";", "parted by ';'"), ("w +", "", "something is missing"),
        ("", "", "write a formula"), ("   ", "", "write a formula"), ("w $ t", "$", "has no meaning"), ("mm", "mm", "is a unit: it stands behind a number"),
        ("sin", "sin", "is a function: write sin("), ("1e400", "1e400", "too large"), ("__import__", "__import__", "there is no"), ("w.real", ".", "has no meaning"),
        ("w ** ", "", "something is missing"), ("2 min(w)", "min", "no unit"), ("lambda", "lambda", "there is no"), ("w == t", "=", "has no meaning"),
    ],
)  # fmt: skip
def test_refusals_name_the_place(text, at, words):
    with pytest.raises(FormulaError) as error:
        check_formula(text, NAMES)
    assert words in error.value.message
    assert text[error.value.start : error.value.end] == at


@pytest.mark.parametrize(
    "text, at, words",
    [
        ("f / (t - 4 mm)", "(t - 4 mm)"[1:-1], "this is 0"), ("sqrt(t - w)", "sqrt(t - w)", "negative: it has no such root"), ("ln(-n)", "ln(-n)", "is not a number"),
        ("asin(n)", "asin(n)", "is not a number"), ("exp(n * 1000)", "exp(n * 1000)", "is not a number"), ("(0 * n) ^ -1", "(0 * n) ^ -1", "0 cannot be raised"),
        ("(-n) ^ 0.5", "(-n) ^ 0.5", "is negative"), ("n ^ 9999", "n ^ 9999", "too large"), ("1e300 * n * 1e300", "1e300 * n * 1e300", "too large"),
    ],
)  # fmt: skip
def test_what_cannot_be_computed_is_told_by_its_place(text, at, words):
    formula = check_formula(text, NAMES)
    with pytest.raises(FormulaError, match=words) as error:
        formula.value(READINGS)
    assert at in text[error.value.start : error.value.end] or text[error.value.start : error.value.end] in at


def test_odd_roots_of_what_is_negative_are_negative():
    assert value("root(t³ - w³; 3)", "mm") == pytest.approx(-((11**3 - 64) ** (1 / 3)))


def test_long_and_deep_formulas_are_refused_not_run_into_the_ground():
    for text in ("(" * 200 + "1" + ")" * 200, "-" * 300 + "1", "1" + "+1" * LONGEST, "sqrt(" * 100 + "1" + ")" * 100):
        with pytest.raises(FormulaError):
            check_formula(text, {})
    assert value("(" * (DEEPEST - 2) + "1" + ")" * (DEEPEST - 2)) == 1
    assert value("1" + "+1" * 400) == 401
    assert value("2" + "^1" * 20) == 2


@pytest.mark.parametrize("name", sorted(DIMENSIONS))
def test_every_dimension_of_readings_has_its_own_in_formulas(name):
    """One base unit of a dimension, through coherent units: what two ways to it give is the same."""
    dim, factor = of_dimension(name)
    base = DIMENSIONS[name].base
    if base in UNITS and UNITS[base][0] == dim:
        assert UNITS[base][1] == pytest.approx(factor)
    coherent = {"force": 1e6, "stress": 1e6, "torque": 1e9, "energy": 1e9, "density": 1e-3, "hammer mass": 1e3, "pendulum length": 1e3, "angle": math.pi / 180}
    assert factor == pytest.approx(coherent.get(name, 1.0))


def test_units_are_consistent_with_one_another():
    """N·m is J, N/mm² is MPa, g/cm³ · mm³ is g: products of units against the unit of the product."""
    for left, right, product in (
        ("N", "mm", "mJ"),
        ("MPa", "mm²", "N"),
        ("g/cm³", "cm³", "g"),
        ("mm/s", "s", "mm"),
        ("kJ/m²", "mm²", "mJ"),
        ("N/mm", "mm", "N"),
        ("J/m", "m", "J"),
    ):
        (a, fa), (b, fb), (c, fc) = UNITS[left], UNITS[right], UNITS[product]
        assert a * b == c, product
        assert fa * fb == pytest.approx(fc), product
    assert UNITS["m/s²"][1] == 1e3
    assert CONSTANTS["gravity"][0] == pytest.approx(9806.65)
    assert [unit_named(t) for t in ("N*m", "deg", "mm^2", "kgf", "nonsense")] == ["N·m", "°", "mm²", "kgf", None]
    assert [natural_unit(d) for d in (NUMBER, FORCE, FORCE * LENGTH, FORCE / LENGTH, LENGTH * LENGTH, TIME * MASS)] == ["1", "N", "J", "N/mm", "mm²", ""]


# ---- anything at all -----------------------------------------------------------------------------

WORDS = st.sampled_from(
    [
        *NAMES,
        *FUNCTIONS,
        *CONSTANTS,
        "(",
        ")",
        "(",
        ")",
        ";",
        "+",
        "-",
        "*",
        "/",
        "^",
        "**",
        "²",
        "³",
        "1",
        "2,5",
        "1e3",
        ".5",
        " mm",
        " N",
        " °",
        " MPa",
        "_",
        "é",
        ",",
    ]
)
ANYTHING = st.one_of(st.text(max_size=60), st.lists(WORDS, max_size=25).map("".join), st.lists(WORDS, max_size=25).map(" ".join))


def refusal(text, names, readings):
    """Why a formula is not computed; None if it is. Anything but a refusal with its place goes through."""
    try:
        check_formula(text, names).value(readings)
    except FormulaError as error:
        return error
    return None


@given(ANYTHING)
@settings(max_examples=int(os.environ.get("ASSAYER_FUZZ", "1500")), deadline=2000, suppress_health_check=[HealthCheck.too_slow])
def test_any_text_is_computed_or_refused_with_a_place_in_it(text):
    told = refusal(text, NAMES, READINGS)
    if told is None:
        formula = check_formula(text, NAMES)
        assert math.isfinite(formula.value(READINGS))
        assert formula.names <= set(NAMES)
    else:
        assert 0 <= told.start <= told.end <= max(len(text), LONGEST)
        assert told.message


_NUMBERS = st.floats(0.01, 99).map(lambda v: f"{v:.4g}")
_SUMS = st.recursive(_NUMBERS, lambda inner: st.tuples(inner, st.sampled_from("+-*/"), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})"), max_leaves=12)


@given(_SUMS)
@settings(max_examples=200, deadline=None)
def test_plain_arithmetic_is_that_of_python(text):
    try:
        expected = eval(text)
    except ZeroDivisionError:
        return
    told = refusal(text, {}, {})
    if told is None:
        assert check_formula(text, {}).value({}) == pytest.approx(expected, rel=1e-9, abs=1e-12)
    else:
        assert "this is 0" in told.message or "too large" in told.message


def test_signs_bind_as_one_writes_them():
    assert parse("a - b - c").left.operator == "-"
    assert parse("a ^ b ^ c").right.operator == "^"
    assert parse("-a ^ b").of.operator == "^"
    assert parse("a / b * c").operator == "*"


# ---- whole definitions ---------------------------------------------------------------------------

PEEL = OwnDefinition(
    "Peel of a glued strip",
    "What a glued strip bears before it peels.",
    (OwnInput("load", "greatest load", "force"), OwnInput("width", "width", "length", 1, 3), OwnInput("travel", "travel", "length", 0, 1, Sign.EITHER)),
    (
        OwnResult("peel", "peel strength", "load / width"),
        OwnResult("per_layer", "stress of a 2 mm layer", "peel / (2 mm)", "kPa", GoodSide.NONE),
        OwnResult("work", "work", "load * travel / 2", "mJ", GoodSide.HIGHER, 0.0, 5.0, False),
    ),
    (OwnOutcome("peeled off"), OwnOutcome("tore beside it", Bound.AT_LEAST, ("peel", "per_layer")), OwnOutcome("slipped", Bound.AT_LEAST)),
    ("bar",),
    (Orientation.FLAT,),
    False,
)


def test_a_definition_becomes_a_method():
    made = own_method("own-abc-1", "own-abc-1", PEEL)
    entries = [Entry("load", 100.0), Entry("width", 10.0), Entry("width", 12.0, 1)]
    found = made.reduce(Inputs(entries, steps={"load": 0.5}))
    assert {r.key: (pytest.approx(r.value), r.unit) for r in found.results} == {"peel": (100 / 11, "N/mm"), "per_layer": (1e3 * 100 / 22, "kPa")}
    assert found.warnings == ["no work: travel was not read"]
    assert [r.reading_step for r in found.results] == [pytest.approx(0.5 / 11), pytest.approx(1e3 * 0.5 / 22)]
    whole = made.reduce(Inputs([*entries, Entry("travel", -4.0)]))
    assert whole.get("work").value == pytest.approx(-200.0)
    assert (made.main, made.own_parts, [s.name for s in made.shapes]) == ("peel", False, ["bar"])
    assert made.bound_of(whole.get("peel"), "tore beside it", "counts") is Bound.AT_LEAST
    assert made.bound_of(whole.get("work"), "tore beside it", "counts") is Bound.EXACT

    def bound(result, outcome):
        reduction = made.reduce(Inputs([*entries, Entry("travel", -4.0)], outcome=outcome))
        return made.bound_of(reduction.get(result), outcome, "counts")

    assert bound("peel", "slipped") is Bound.AT_LEAST
    assert bound("work", "slipped") is Bound.AT_MOST, "with a travel below 0 the work falls as the load rises"
    assert bound("work", "tore beside it") is Bound.EXACT
    assert made.quantity("work").margin.value == 5.0
    assert not made.quantity("work").ratio_scale
    assert "load / width" in made.formulas[0]
    with pytest.raises(EntryError, match="width: at least one reading"):
        made.reduce(Inputs(entries[:1]))


def test_what_cannot_be_computed_of_the_main_result_is_an_error_and_of_another_a_remark():
    told = OwnDefinition(
        "x",
        "",
        (OwnInput("a", "a", "length", sign=Sign.EITHER),),
        (OwnResult("one", "one", "1 mm * 1 mm / a"), OwnResult("two", "two", "sqrt(a)")),
        shapes=("bar",),
    )
    assert [f.part for f in check_definition(told).faults] == ["results"], "the root of a length has no unit"
    plain = OwnDefinition("x", "", told.inputs, (told.results[0], OwnResult("two", "two", "sqrt(a / (1 mm))")), shapes=("bar",))
    made = own_method("own-x-1", "own-x-1", plain)
    assert made.reduce(Inputs([Entry("a", -4.0)])).warnings == ["no two, at 'sqrt(a / (1 mm))': -4 is negative: it has no such root"]
    with pytest.raises(EntryError, match="one, at 'a': this is 0") as error:
        made.reduce(Inputs([Entry("a", 0.0)]))
    assert error.value.field == "a"


@pytest.mark.parametrize(
    "change, part, index, words",
    [
        ({"label": " "}, "label", 0, "give the test a name"),
        ({"inputs": ()}, "inputs", 0, "from 1 to 20 inputs"),
        ({"results": ()}, "results", 0, "from 1 to 12 results"),
        ({"shapes": ("sphere",)}, "shapes", 0, "no shape 'sphere'"),
        ({"shapes": ()}, "shapes", 0, "on which shape"),
        ({"orientations": ()}, "orientations", 0, "how the specimens are printed"),
        ({"inputs": (OwnInput("Load", "l", "force"), *PEEL.inputs[1:])}, "inputs", 0, "small letters"),
        ({"inputs": (*PEEL.inputs, OwnInput("width", "w", "length"))}, "inputs", 3, "is taken"),
        ({"inputs": (*PEEL.inputs, OwnInput("sqrt", "w", "length"))}, "inputs", 3, "is taken"),
        ({"inputs": (*PEEL.inputs, OwnInput("more", "", "length"))}, "inputs", 3, "words"),
        ({"inputs": (*PEEL.inputs, OwnInput("more", "m", "colour"))}, "inputs", 3, "no dimension 'colour'"),
        ({"inputs": (*PEEL.inputs, OwnInput("more", "m", "length", 4, 3))}, "inputs", 3, "no more are needed"),
        ({"results": (OwnResult("peel", "p", "load + width"),)}, "results", 0, "cannot be added"),
        ({"results": (OwnResult("peel", "p", "load / width", "MPa"),)}, "results", 0, "not a matter of MPa"),
        ({"results": (OwnResult("peel", "p", "load", margin=0.0),)}, "results", 0, "above 0"),
        ({"results": (OwnResult("later", "p", "peel"), OwnResult("peel", "p", "load"))}, "results", 0, "there is no 'peel'"),
        ({"outcomes": (OwnOutcome("tore"), OwnOutcome("Tore!"))}, "outcomes", 1, "words of its own"),
        ({"outcomes": (OwnOutcome("tore", Bound.AT_LEAST, ("strength",)),)}, "outcomes", 0, "no result 'strength'"),
    ],
)
def test_every_fault_of_a_definition_has_its_place(change, part, index, words):
    from dataclasses import replace

    told = replace(PEEL, **change)
    faults = check_definition(told).faults
    assert any((f.part, f.index) == (part, index) and words in f.text for f in faults), faults
    with pytest.raises(EntryError, match=re.escape(faults[0].text)):
        own_method("own-x-1", "own-x-1", told)


def test_a_definition_comes_back_from_what_was_kept():
    import json
    from dataclasses import asdict

    assert definition_of(json.loads(json.dumps(asdict(PEEL)))) == PEEL
    assert check_definition(PEEL).faults == []
