"""What changed what: credited only where it stood alone; and what to try next, by the table."""

from dataclasses import replace

import pytest

from assayer.core.advice.next_steps import Known, State, TowerGrades, candidates, lowest_trait, moved, symptom_of
from assayer.core.advice.rules import FIRST_OF, RULES, SYMPTOMS, symptom
from assayer.core.advice.trials import Trial, effects, untold
from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Window
from assayer.core.methods.traits import TRAITS, median_grade, trait
from assayer.core.settings.declared import setting
from assayer.core.settings.sheet import Schedule, Set, Sheet, check_sheet

BASE = {"nozzle_temperature": 230.0, "fan": 20.0, "layer_height": 0.2, "speed_infill": 50.0}


def trial(number, parent=None, grades=None, outcome="good", around=None, **values):
    held = {n: v if isinstance(v, Set) else Set(v) for n, v in (BASE | values).items()}
    return Trial(number, parent, Sheet(held), around or {"part": "clip"}, grades or {}, outcome)


def told(found):
    return {
        (e.change.name, e.change.step if e.change.step is None else round(e.change.step, 6)): {name: value for name, (value, _) in e.by_trait.items()}
        for e in found
    }


def test_two_changes_at_once_are_credited_to_neither():
    a = trial(1, grades={"stringing": 1})
    both = trial(2, 1, {"stringing": 3}, fan=40.0, layer_height=0.28)
    assert effects([a, both]) == []
    (open_,) = untold([a, both])
    assert (open_.number, open_.start, open_.missing.name) == (2, 1, "layer_height")
    assert [d.name for d in open_.untold] == ["layer_height", "fan"]


def test_the_missing_trial_tells_both_apart():
    a = trial(1, grades={"stringing": 1, "bridging": 2})
    both = trial(2, 1, {"stringing": 3, "bridging": 1}, fan=40.0, layer_height=0.28)
    x = trial(3, 1, {"stringing": 2, "bridging": 2}, layer_height=0.28)
    found = effects([a, both, x])
    assert told(found) == {
        ("layer_height", 0.08): {"stringing": 1, "bridging": 0},
        ("fan", 20): {"stringing": 1, "bridging": -1},
    }
    assert {e.change.name: e.pairs for e in found} == {"layer_height": ((1, 3),), "fan": ((3, 2),)}
    assert untold([a, both, x]) == []


def test_taking_one_of_two_back_tells_them_apart_as_well():
    """As in the trail's sketch: 5 changed two, 6 took one back."""
    four = trial(4, grades={"surface": 2})
    five = trial(5, 4, {"surface": 2}, speed_infill=90.0, layer_height=0.28)
    six = trial(6, 5, {"surface": 1}, speed_infill=90.0)
    assert told(effects([four, five, six])) == {("layer_height", 0.08): {"surface": 1}, ("speed_infill", 40): {"surface": -1}}


def test_a_third_change_stays_open_until_it_is_told():
    a = trial(1)
    three = trial(2, 1, fan=40.0, layer_height=0.28, nozzle_temperature=225.0)
    x = trial(3, 1, nozzle_temperature=225.0)
    (open_,) = untold([a, three, x])
    assert [d.name for d in open_.untold] == ["layer_height", "fan"]


def test_how_often_and_the_mean_of_several():
    trials = [
        trial(1, grades={"stringing": 1}),
        trial(2, 1, {"stringing": 3}, fan=40.0),
        trial(3, 2, {"stringing": 2}, fan=40.0, nozzle_temperature=225.0),
        trial(4, 3, {"stringing": 2}, nozzle_temperature=225.0),
        trial(5, 1, {"stringing": 2}),
    ]
    found = {(e.change.name, e.change.step): e for e in effects(trials)}
    fan = found["fan", 20]
    # from 1 and 5 (mean 1.5) to 2: +1.5; from 4 to 3: 0
    assert fan.seen == 2
    assert fan.by_trait["stringing"] == (pytest.approx(0.75), 2)
    assert found["nozzle_temperature", -5].by_trait["stringing"] == (pytest.approx((0.5 - 1) / 2), 2)


def test_prints_of_other_parts_or_spools_are_not_compared():
    a = trial(1, grades={"stringing": 1})
    other = trial(2, 1, {"stringing": 3}, around={"part": "tower"}, fan=40.0)
    assert effects([a, other]) == []
    assert {d.name for d in untold([a, other])[0].changes} == {"fan", "part"}
    dried = trial(3, 1, {"stringing": 4}, around={"part": "clip", "dried": "yes"})
    (effect,) = effects([a, dried])
    assert (effect.change.name, effect.change.after.value, effect.by_trait["stringing"][0]) == ("dried", "yes", 3)


def test_words_schedules_and_failures_count_as_well():
    a = trial(1, outcome="good", adhesive="none")
    b = trial(2, 1, outcome="failed", adhesive="glue film")
    (effect,) = effects([a, b])
    assert effect.finishes == -1
    assert effect.by_trait == {}
    c = trial(3, 1, adhesive="none", bed_temperature=Set(80.0, schedule=Schedule(-1, 3, 70)))
    d = trial(4, 3, adhesive="none", bed_temperature=80.0)
    assert [e.change.name for e in effects([c, d])] == ["bed_temperature"]


def test_medians_of_graders():
    assert median_grade([1, 3, 4]) == 3
    assert median_grade([4, 1]) == 2.5
    assert median_grade([]) is None


def test_every_trait_describes_every_step():
    for t in TRAITS:
        assert len(set(t.steps)) == 5
        assert all(step.strip() == step and step for step in t.steps)
    assert {t.name for t in TRAITS if not t.better} == {"sheen", "shade", "odour", "texture"}


def test_every_rule_has_its_reason_and_can_be_set():
    names = {s.name for s in SYMPTOMS}
    assert {r.symptom for r in RULES} == names
    assert set(FIRST_OF.values()) <= names
    for s in SYMPTOMS:
        assert s.trait is None or trait(s.trait).better
    for rule in RULES:
        assert rule.why.endswith(".")
        assert rule.cost
        assert sum(x is not None for x in (rule.step, rule.factor, rule.to)) + bool(rule.action) == 1
        spec = setting(rule.setting)
        assert (spec is None) == bool(rule.action)
        if spec is not None:
            middle = (spec.low + spec.high) / 2 if not spec.choices and spec.unit else None
            if rule.to is None:
                assert middle is not None
                after = moved(spec, rule, middle)
                assert (after - middle) * rule.way > 0
            else:
                after = rule.to
            check_sheet(Sheet({rule.setting: Set(after)}))
    assert len({(r.symptom, r.setting, r.action) for r in RULES}) == len(RULES)


def found_for(name, current, trials, window=None, hardware=None, **more):
    known = Known(trials, effects(trials), window=window or Window(), hardware=hardware or Hardware(name="Warm Box"), **more)
    told = candidates(symptom(name), current, known)
    return {c.rule.setting or c.rule.action: c for c in told}, [c.rule.setting or c.rule.action for c in told]


def test_the_lowest_grade_picks_the_symptom():
    t = trial(1, grades={"bridging": 3, "stringing": 2, "sheen": 0, "surface": 2})
    assert lowest_trait(t) == ("stringing", 2)
    assert symptom_of(t).name == "strings"
    assert symptom_of(trial(1, grades={"stringing": 4})) is None
    assert symptom_of(trial(1, grades={"sheen": 0})) is None


def test_what_was_tried_comes_with_what_came_of_it():
    a = trial(1, grades={"stringing": 1}, retraction=1.0, speed_travel=120.0)
    cooler = replace(trial(2, 1, {"stringing": 2}, retraction=1.0, speed_travel=120.0, nozzle_temperature=225.0))
    further = trial(3, 2, {"stringing": 1}, retraction=1.5, speed_travel=120.0, nozzle_temperature=225.0)
    by_name, order = found_for("strings", cooler, [a, cooler, further])
    assert by_name["nozzle_temperature"].state is State.ONCE, "one grade on either side is seen once"
    assert (by_name["nozzle_temperature"].before, by_name["nozzle_temperature"].after) == (225, 220)
    assert by_name["nozzle_temperature"].tried == "seen once, from 1 to 2: strings +1"
    twice = [replace(t, graders={"stringing": 2}) for t in (a, cooler, further)]
    assert found_for("strings", twice[1], twice)[0]["nozzle_temperature"].state is State.HELPED
    unknown = [replace(t, spool_known=False) for t in twice]
    assert found_for("strings", unknown[1], unknown)[0]["nozzle_temperature"].state is State.ONCE, "the spool is not recorded on either side"
    assert by_name["retraction"].state is State.TRIED
    assert by_name["retraction"].tried == "seen once, from 2 to 3: strings −1"
    assert by_name["travel_inside"].state is State.OPEN
    assert order.index("speed_travel") < order.index("nozzle_temperature")
    assert (order[0], order[-1]) == ("retraction", "retraction"), "the usual way made it worse: last, and the other way among those that are open"


def test_a_change_that_did_not_come_to_its_end_is_tried_and_one_that_was_not_graded_says_nothing():
    a = trial(1, grades={"stringing": 1}, retraction=1.0)
    failed = trial(2, 1, outcome="failed", retraction=1.5)
    by_name, _ = found_for("strings", a, [a, failed])
    assert (by_name["retraction"].state, by_name["retraction"].after) == (State.BETWEEN, 1.25), "a value between comes first"
    ungraded = trial(2, 1, retraction=1.5)
    by_name, _ = found_for("strings", a, [a, ungraded])
    assert (by_name["retraction"].state, by_name["retraction"].tried) == (State.OPEN, "tried from 1 to 2: not graded for this")
    alike = trial(2, 1, {"stringing": 1}, retraction=1.5)
    by_name, _ = found_for("strings", a, [a, alike])
    assert (by_name["retraction"].state, by_name["retraction"].tried) == (State.TRIED, "seen once, from 1 to 2: strings unchanged")


def test_a_rule_to_a_word_was_tried_forwards_or_backwards():
    for first, second, words in ((False, True, "seen once, from 1 to 2: strings +2"), (True, False, "seen once, from 2 to 1: strings −2")):
        a = trial(1, grades={"stringing": 1}, travel_inside=first)
        b = trial(2, 1, {"stringing": 3}, travel_inside=second)
        current = a if not first else b
        by_name, _ = found_for("strings", current, [a, b])
        found = by_name["travel_inside"]
        assert found.tried == words
        assert found.state is (State.ONCE if second else State.TRIED)


def test_a_change_the_other_way_and_one_among_others_are_said():
    a = trial(1, grades={"stringing": 2})
    hotter = trial(2, 1, {"stringing": 1}, nozzle_temperature=240.0)
    both = trial(3, 1, {"stringing": 3}, retraction=1.5, fan=40.0)
    first = replace(a, sheet=Sheet({**a.sheet.values, "retraction": Set(1.0)}))
    hotter = replace(hotter, sheet=Sheet({**hotter.sheet.values, "retraction": Set(1.0)}))
    by_name, _ = found_for("strings", first, [first, hotter, both])
    assert by_name["nozzle_temperature"].tried == "tried the other way, from 1 to 2: strings −1"
    assert by_name["nozzle_temperature"].state is State.OPEN
    assert by_name["retraction"].tried == "tried in 3, with other changes at once: not told apart"


def test_every_trial_of_a_setting_counts_and_no_effect_comes_after_what_is_untried():
    """The mean over all trials that went this way, not the first match, which went the other way."""
    a = trial(1, grades={"stringing": 2}, speed_travel=120.0, nozzle_temperature=220.0)
    b = trial(2, 1, {"stringing": 1}, speed_travel=120.0, nozzle_temperature=225.0)
    c = trial(3, 2, {"stringing": 2}, speed_travel=120.0, nozzle_temperature=215.0)
    by_name, _ = found_for("strings", a, [a, b, c])
    # 220 to 215 changed nothing, 225 to 215 gained one
    assert (by_name["nozzle_temperature"].tried, by_name["nozzle_temperature"].state) == ("tried from 1 to 3 and 1 more: strings +0.5", State.HELPED)
    # the other way changed nothing: no reason to come before what nobody tried
    hotter = trial(2, 1, {"stringing": 2}, speed_travel=120.0, nozzle_temperature=225.0)
    by_name, _ = found_for("strings", a, [a, hotter])
    assert (by_name["nozzle_temperature"].tried, by_name["nozzle_temperature"].state) == ("tried the other way, from 1 to 2: strings unchanged", State.TRIED)


def test_a_sheet_that_is_printed_or_planned_is_not_proposed_again():
    a = trial(1, grades={"stringing": 1}, retraction=1.0)
    planned = {2: Sheet({**a.sheet.values, "retraction": Set(1.5)})}
    by_name, order = found_for("strings", a, [a], sheets=planned)
    assert (by_name["retraction"].state, by_name["retraction"].against) == (State.PRINTED, "trial 2 has this sheet")
    assert order[-1] == "retraction" or by_name[order[-1]].state is State.THERE


def test_a_way_that_failed_is_not_gone_further_and_the_other_way_is_offered():
    a = trial(1, grades={"layers": 2}, nozzle_temperature=230.0)
    failed = trial(2, 1, outcome="failed", nozzle_temperature=225.0)
    by_name, _ = found_for("strings", failed, [a, failed])
    assert (by_name["nozzle_temperature"].state, by_name["nozzle_temperature"].against) == (State.FAILED, "trial 2 failed at 225 °C")
    worse = trial(2, 1, {"stringing": 1}, retraction=1.5)
    first = replace(trial(1, grades={"stringing": 3}), sheet=Sheet({**a.sheet.values, "retraction": Set(1.0)}))
    worse = replace(worse, sheet=Sheet({**a.sheet.values, "retraction": Set(1.5)}))
    options = [c for c in candidates(symptom("strings"), first, Known([first, worse], effects([first, worse]))) if c.rule.setting == "retraction"]
    assert [(c.after, c.state) for c in options] == [(0.5, State.OPEN), (1.5, State.TRIED)], "the opposite of the usual way, which made it worse"


def test_a_value_between_two_that_bracket_comes_first():
    """At 210 the layers are weak, at 230 it strings: the middle, not the usual step of 5."""
    cool = trial(1, grades={"layers": 1, "stringing": 4}, nozzle_temperature=210.0)
    hot = trial(2, 1, {"layers": 4, "stringing": 2}, nozzle_temperature=230.0)
    by_name, order = found_for("weak layers", cool, [cool, hot])
    found = by_name["nozzle_temperature"]
    assert (found.state, found.after, order[0]) == (State.BETWEEN, 220, "nozzle_temperature")
    assert found.tried == "230 °C in trial 2 went too far (strings)"
    middle = trial(3, 1, {"layers": 2, "stringing": 4}, nozzle_temperature=220.0)
    assert found_for("weak layers", cool, [cool, hot, middle], sheets={3: middle.sheet})[0]["nozzle_temperature"].state is State.PRINTED


def test_towers_other_dial_ins_and_the_spool_have_their_say():
    a = trial(1, grades={"stringing": 1}, retraction=1.0)
    tower = TowerGrades("tower 4", "nozzle_temperature", {230.0: {"stringing": 1}, 225.0: {"stringing": 3}, 220.0: {"stringing": 4}})
    found = found_for("strings", a, [a], towers=[tower])[0]["nozzle_temperature"]
    assert (found.state, found.tried) == (State.ONCE, "tower 4, 230 to 225: strings +2")
    before, after = trial(1, grades={"stringing": 3}, retraction=0.5), trial(2, 1, {"stringing": 2}, retraction=1.0)
    found = found_for("strings", a, [a], elsewhere=[("clips", effects([before, after])[0])])[0]["retraction"]
    assert (found.state, found.tried) == (State.TRIED, "in “clips” seen once, from 1 to 2: strings −1")
    for dry, state, place in ((False, State.FIRST, 0), (True, State.THERE, -1), (None, State.OPEN, None)):
        by_name, order = found_for("popping", a, [a], spool_dry=dry)
        assert by_name["dry the spool"].state is state
        assert place is None or order[place] == "dry the spool"


def test_nothing_outside_window_or_printer_is_proposed_without_saying_so():
    t = trial(1, grades={"layers": 1}, bed_temperature=90.0, chamber_temperature=60.0)
    window = Window(nozzle_low=210, nozzle_high=230)
    by_name, order = found_for("cracks", t, [t], window, Hardware(chamber_hottest=60, name="Warm Box"))
    assert by_name["nozzle_temperature"].state is State.OUTSIDE
    assert "210–230 °C" in by_name["nozzle_temperature"].against
    assert by_name["chamber_temperature"].state is State.BEYOND
    assert "Warm Box reaches at most 60 °C" in by_name["chamber_temperature"].against
    assert by_name["fan"].state is State.OPEN
    assert order[-1] == "chamber_temperature"
    inside, _ = found_for("cracks", t, [t], Window(nozzle_low=210, nozzle_high=235))
    assert inside["nozzle_temperature"].state is State.OPEN


def test_what_the_sheet_does_not_say_or_has_already():
    t = trial(1, door="closed")
    by_name, _ = found_for("cracks", t, [t])
    assert by_name["door"].state is State.THERE
    assert by_name["chamber_temperature"].state is State.UNSAID
    popping, _ = found_for("popping", t, [t])
    assert popping["dry the spool"].state is State.OPEN
