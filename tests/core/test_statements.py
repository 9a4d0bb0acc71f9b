"""Sentences held against results: each kind, what makes it agree, and the slip it is likely to be."""

import json
from pathlib import Path

import pytest

from assayer.core.statements.check import MaterialResult, check_statement, check_text
from assayer.core.statements.words import factor_in
from assayer.core.stats.groups import Interval
from assayer.core.stats.verdicts import GoodSide

GIVEN = json.loads((Path(__file__).parents[1] / "data/findings/statements.json").read_text("utf-8"))["results"]
RESULTS = [MaterialResult(r["material"], r["quantity"], r["unit"], r["mean"], Interval(*r["ci95"]), GoodSide(r["better"])) for r in GIVEN]


@pytest.mark.parametrize(
    "text, kind, verdict, actual",
    [
        # percentages, of either base, with either side of the word
        ("Tarn Clearwater is 33 % weaker than Orrery Burden.", "percentage", "agrees", "33.2 %"),
        ("Tarn Clearwater creeps 46 % less than Hollin Everyday.", "percentage", "agrees", "45.6 %"),
        ("Hollin Everyday creeps 46 % more than Tarn Clearwater.", "percentage", "disagrees", "83.7 %: 46 % is of Hollin Everyday"),
        ("Compared with Tarn Clearwater, Hollin Everyday is 19 % stronger.", "percentage", "agrees", "18.6 %"),
        ("The layer adhesion of Hollin Everyday is 29 per cent higher than that of Tarn Clearwater.", "percentage", "agrees", "28.9 %"),
        ("Tarn Clearwater reaches 84 % of the strength of Hollin Everyday.", "percentage", "agrees", "84.4 %"),
        ("Tarn Clearwater reaches 74 % of the strength of Hollin Everyday.", "percentage", "disagrees", "84.4 %"),
        ("Tarn Clearwater is 16 % stronger than Hollin Everyday.", "percentage", "disagrees", "−15.6 %: the other way round"),
        ("Hollin Everyday is 1,9 % stronger than Tarn Clearwater.", "percentage", "disagrees", "18.6 %: a decimal point"),
        ("Orrery Burden is 150 % stronger than Tarn Clearwater.", "percentage", "disagrees", "49.7 %: 150 % is the whole, not the difference"),
        ("Hollin Everyday is 22 % stronger than Tarn Clearwater.", "percentage", "disagrees", "18.6 %"),
        ("Hollin Everyday is about 22 % stronger than Tarn Clearwater.", "percentage", "agrees", "18.6 %"),
        ("Tarn Clearwater creeps 46 % better than Hollin Everyday.", "percentage", "agrees", "45.6 %"),
        ("Hollin Everyday is a fifth stronger than Tarn Clearwater.", "percentage", "agrees", "18.6 %"),
        ("Hollin Everyday is 19 % stronger.", "percentage", "not measured", "name what it is compared with"),
        ("Kestrel Plain is 20 % stronger than Tarn Clearwater.", "percentage", "not measured", ""),
        ("Orrery Burden is 20 % tougher than Tarn Clearwater.", "percentage", "not measured", ""),
        # factors
        ("Orrery Burden is 1.5 times as strong as Tarn Clearwater.", "factor", "agrees", "1.50"),
        ("Hollin Everyday creeps almost twice as much as Tarn Clearwater.", "factor", "agrees", "1.84"),
        ("Tarn Clearwater has two thirds of the strength of Orrery Burden.", "factor", "agrees", "0.668"),
        ("Tarn Clearwater is twice as strong as Orrery Burden.", "factor", "disagrees", "0.668"),
        ("Tarn Clearwater is 1.5 times as strong as Orrery Burden.", "factor", "disagrees", "0.668: the other way round"),
        ("Tarn Clearwater is 1.5 times weaker than Orrery Burden.", "factor", "agrees", "0.668"),
        ("Orrery Burden is three times as tough as Tarn Clearwater.", "factor", "not measured", ""),
        ("Kestrel Plain is twice as strong as Tarn Clearwater.", "factor", "not measured", ""),
        # values, in their unit or another of its kind
        ("Hollin Everyday reached 56 MPa.", "value", "agrees", "55.6 MPa"),
        ("Hollin Everyday reached 59 MPa.", "value", "disagrees", "55.6 MPa"),
        ("Hollin Everyday reached about 59 MPa.", "value", "agrees", "55.6 MPa"),
        ("Tarn Clearwater reached 6800 psi.", "value", "agrees", "46.9 MPa"),
        ("Tarn Clearwater has a strength of 469 MPa.", "value", "disagrees", "46.9 MPa: a decimal point"),
        ("Tarn Clearwater reached 46.9 GPa.", "value", "disagrees", "the unit is MPa"),
        ("Hollin Everyday has a creep of 0,54 mm.", "value", "agrees", "0.540 mm"),
        ("Kestrel Plain reached 50 MPa.", "value", "not measured", ""),
        ("Orrery Burden has an impact strength of 5 kJ/m².", "value", "not measured", ""),
        # orders
        ("Hollin Everyday is stronger than Tarn Clearwater.", "order", "agrees", "55.6 against 46.9 MPa"),
        ("Tarn Clearwater is stronger than Hollin Everyday.", "order", "disagrees", "Hollin Everyday 55.6, Tarn Clearwater 46.9 MPa"),
        ("Tarn Clearwater is less strong than Hollin Everyday.", "order", "agrees", "46.9 against 55.6 MPa"),
        ("Hollin Everyday beats Tarn Clearwater in layer adhesion.", "order", "agrees", "29.9 against 23.2 MPa"),
        ("Hollin Everyday is the weakest between the layers.", "order", "disagrees", "Tarn Clearwater 23.2, Hollin Everyday 29.9 MPa"),
        ("Orrery Burden is the strongest.", "order", "agrees", "70.2 against 55.6 MPa"),
        ("Hollin Everyday has the worst creep.", "order", "agrees", "0.540 against 0.294 mm"),
        ("Everyday creeps less than Clearwater.", "order", "disagrees", "Tarn Clearwater 0.294, Hollin Everyday 0.540 mm"),
        ("Orrery Burden is better between the layers than Hollin Everyday.", "order", "undecided", "intervals overlap"),
        ("Orrery Burden is stronger.", "order", "not measured", "name what it is compared with"),
        # properties
        ("Hollin Everyday does not creep.", "property", "disagrees", "0.540 mm"),
        ("Orrery Burden is food safe.", "property", "not measured", ""),
        ("Orrery Burden prints without stringing.", "property", "not measured", ""),
    ],
)  # fmt: skip
def test_a_sentence_is_read_and_judged(text, kind, verdict, actual):
    found = check_statement(text, RESULTS)
    assert (found.kind, found.verdict, found.actual) == (kind, verdict, actual)


def test_one_value_alone_decides_no_order_and_holds_only_to_its_rounding():
    alone = [
        MaterialResult("A Plain", "strength", "MPa", 50.0, None, GoodSide.HIGHER),
        MaterialResult("B Other", "strength", "MPa", 30.0, None, GoodSide.HIGHER),
    ]
    assert check_statement("A Plain is stronger than B Other.", alone).verdict == "undecided"
    assert [check_statement(f"A Plain reached {v} MPa.", alone).verdict for v in ("50.0", "50.4", "50", "51")] == ["agrees", "disagrees", "agrees", "disagrees"]
    between = [MaterialResult("A Plain", "strength", "MPa", 50.04, None, GoodSide.HIGHER)]
    assert [check_statement(f"A Plain reached {v} MPa.", between).verdict for v in ("50.0", "50.1", "50.00")] == ["agrees", "disagrees", "disagrees"]


def test_an_absence_is_open_where_nothing_may_have_been_there():
    lifted = [MaterialResult("A Plain", "corner lift", "mm", mean, Interval(low, 0.4), GoodSide.LOWER) for mean, low in ((0.2, 0.0),)]
    assert check_statement("A Plain does not warp.", lifted).verdict == "undecided"


@pytest.mark.parametrize(
    "words, factor",
    [("twice", 2), ("triple", 3), *((f"{word} times", n) for n, word in enumerate(("two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"), 2)),
     *((f"a {word} of", 1 / n) for word, n in (("half", 2), ("third", 3), ("quarter", 4), ("fifth", 5), ("tenth", 10))), ("three quarters of", 0.75), ("2,5 ×", 2.5)],
)  # fmt: skip
def test_factors_are_read_in_words_and_figures(words, factor):
    assert factor_in(f"it is {words} the strength")[0] == pytest.approx(factor)


def test_longer_names_are_no_others_and_a_shared_product_name_is_nobody():
    named = [
        MaterialResult(name, "strength", "MPa", mean, Interval(mean - 1, mean + 1), GoodSide.HIGHER)
        for name, mean in (("Tarn Clearwater", 46.0), ("Tarn Clearwater CF", 52.0), ("Fenwick Plain", 30.0), ("Kestrel Plain", 40.0))
    ]
    assert check_statement("Tarn Clearwater CF is stronger than Tarn Clearwater.", named).verdict == "agrees"
    assert check_statement("Clearwater CF reached 52 MPa.", named).verdict == "agrees"
    assert check_statement("Plain reached 40 MPa.", named).verdict == "not measured"


def test_the_statements_of_a_text_are_found_where_they_begin():
    text = "We print at 20 °C. Hollin Everyday is 40 % stronger than Tarn Clearwater; fine. Orrery Burden reached 90.5 MPa.\nOrrery Burden is brown."
    found = check_text(text, RESULTS)
    assert [(text[s.start : s.start + 6], s.verdict, s.actual) for s in found] == [("Hollin", "disagrees", "18.6 %"), ("Orrery", "disagrees", "70.2 MPa")]
