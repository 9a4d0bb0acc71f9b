"""Plans and what they lack: each with what must be found, and nothing more."""

from dataclasses import replace

import pytest

from assayer.core.plan import designs
from assayer.core.plan.affected_arms import affected_arms
from assayer.core.plan.designs import central_composite, fractional_factorial, latin_hypercube
from assayer.core.plan.fairness import shortcomings
from assayer.core.plan.study_plan import PlannedArm, Printing, StudiedFactor, StudyPlan

DAY_A, DAY_B = Printing("P1", "brass", "L1", "dried", "prog 1", "1 May", 21), Printing("P1", "brass", "L1", "dried", "prog 1", "2 May", 22)
BOTH = (DAY_A, DAY_B)
COMMON = {"layer_height": 0.2, "nozzle_temperature": 230.0}
A = PlannedArm("A", "Everyday", "grey", settings=COMMON, batches=BOTH)
B = PlannedArm("B", "Tough", "grey", settings=COMMON, batches=BOTH)
C = PlannedArm("C", "Glass", "grey", settings=COMMON, batches=BOTH)
SAME = replace(B, product="Everyday")
FIVE = {"tension, flat": 5}


def plan(*arms, factor=StudiedFactor.MATERIAL, reference="A", replicates=None, **more):
    return StudyPlan(factor, arms, reference, FIVE if replicates is None else replicates, **more)


def at(arm, **settings):
    return replace(arm, settings={**arm.settings, **settings})


def on(arm, *batches):
    return replace(arm, batches=batches)


def lot(arm, *lots):
    return on(arm, *(replace(b, lot=name) for b, name in zip(BOTH, lots, strict=True)))


FAN = {"factor": StudiedFactor.SETTING, "studied": ("fan",)}
TWO = {"factor": StudiedFactor.SETTING, "studied": ("fan", "nozzle_temperature")}

THREE = [designs.Factor("fan", (0.0, 50.0)), designs.Factor("nozzle_temperature", (230.0, 245.0)), designs.Factor("flow", (95.0, 100.0))]


def designed(design):
    """The runs of a design as arms."""
    names = [f.name for f in design.factors]
    arms = [replace(at(A, **dict(zip(names, run, strict=True))), name=f"A{i}") for i, run in enumerate(dict.fromkeys(design.runs))]
    return plan(*arms, factor=StudiedFactor.SETTING, studied=tuple(names))


TABLE = [
    ("a fair comparison of materials", plan(A, B, C), []),
    ("one arm", plan(A), ["one arm"]),
    ("no reference", plan(A, B, reference=None), ["no reference"]),
    ("no tests", plan(A, B, replicates={}), ["no tests"]),
    ("one specimen of each", plan(A, B, replicates={"tension, flat": 1, "creep": 5}), ["no replicates"]),
    ("two specimens of each", plan(A, B, replicates={"creep": 2}), ["two replicates"]),
    ("another nozzle temperature, same settings wanted", plan(A, at(B, nozzle_temperature=245.0)), ["setting differs"]),
    ("another nozzle temperature, each at its best", plan(A, at(B, nozzle_temperature=245.0), each_at_best=True), []),
    ("another layer height, each at its best", plan(A, at(B, layer_height=0.3), each_at_best=True), ["setting differs"]),
    ("two settings besides", plan(A, at(B, layer_height=0.3, infill=40.0)), ["setting differs", "setting differs"]),
    ("a setting that one does not say", plan(A, at(B, brim=5.0)), ["setting differs"]),
    ("a fair sweep", plan(A, at(SAME, fan=50.0), at(replace(SAME, name="D"), fan=80.0), **FAN), []),
    ("a sweep of nothing", plan(A, SAME, **FAN), ["nothing differs"]),
    ("a sweep in which another setting moves too", plan(at(A, fan=0.0), at(SAME, fan=50.0, infill=9.0), **FAN), ["setting differs"]),
    ("a sweep over two materials", plan(at(A, fan=0.0), at(B, fan=50.0), **FAN), ["product differs"]),
    ("two settings that move together", plan(at(A, fan=0.0), at(SAME, fan=50.0, nozzle_temperature=245.0), **TWO), ["settings tied"]),
    (
        "two settings, apart by a third run",
        plan(at(A, fan=0.0), at(SAME, fan=50.0, nozzle_temperature=245.0), at(replace(SAME, name="D"), fan=50.0), **TWO),
        [],
    ),
    (
        "all four runs of two settings",
        plan(*(at(replace(A, name=f"{f}{t}"), fan=f, nozzle_temperature=t) for f in (0.0, 50.0) for t in (230.0, 245.0)), reference="0.0230.0", **TWO),
        [],
    ),
    (
        "two settings that rise together, not in a straight line",
        plan(*(at(replace(A, name=f"A{i}"), fan=f, nozzle_temperature=t) for i, (f, t) in enumerate([(0.0, 230.0), (50.0, 241.0), (100.0, 250.0)])), **TWO),
        ["settings tied"],
    ),
    ("half of all runs of three settings", designed(fractional_factorial(THREE, 1)), []),
    ("a central composite", designed(central_composite(THREE)), []),
    ("a Latin hypercube", designed(latin_hypercube(THREE, 9, 1)), []),
    ("a setting in words, apart from the fan", plan(*(at(replace(A, name=f"{f}{w}"), fan=f, seam=w) for f in (0.0, 50.0) for w in ("aligned", "scattered")),
        factor=StudiedFactor.SETTING, studied=("fan", "seam")), []),
    ("a setting in words, tied to the fan", plan(*(at(replace(A, name=w), fan=f, seam=w) for f, w in ((0.0, "aligned"), (50.0, "scattered"))),
        factor=StudiedFactor.SETTING, studied=("fan", "seam")), ["settings tied"]),
    ("colours of one product", plan(A, replace(SAME, colour="black"), factor=StudiedFactor.COLOUR), []),
    ("colours of two products", plan(A, replace(B, colour="black"), factor=StudiedFactor.COLOUR), ["product differs"]),
    ("one colour twice", plan(A, SAME, factor=StudiedFactor.COLOUR), ["nothing differs"]),
    ("before and after a treatment", plan(A, replace(SAME, treatment="annealed"), factor=StudiedFactor.TREATMENT), []),
    ("treated, and another colour", plan(A, replace(SAME, treatment="annealed", colour="red"), factor=StudiedFactor.TREATMENT), ["colour differs"]),
    ("a treatment that none has", plan(A, SAME, factor=StudiedFactor.TREATMENT), ["nothing differs"]),
    ("materials, one of them annealed", plan(A, replace(B, treatment="annealed")), ["treatment differs"]),
    ("two printers, each arm on one", plan(A, on(B, *(replace(b, printer="P2") for b in BOTH))), ["printer differs"]),
    ("two printers, each arm on both", plan(*(on(a, DAY_A, replace(DAY_B, printer="P2")) for a in (A, B))), []),
    ("a printer that is not known of one", plan(on(A, *(replace(b, printer="") for b in BOTH)), B, on(C, *(replace(b, printer="P2") for b in BOTH))), ["printer differs"]),
    ("another nozzle", plan(A, on(B, *(replace(b, nozzle="steel") for b in BOTH))), ["nozzle differs"]),
    ("another program", plan(A, on(B, DAY_A, replace(DAY_B, program="prog 2"))), ["program differs"]),
    ("one of them moist", plan(A, on(B, *(replace(b, moisture="open 40 h") for b in BOTH))), ["moisture differs"]),
    ("dried or not is the treatment", plan(A, replace(on(SAME, *(replace(b, moisture="open") for b in BOTH)), treatment="moist"), factor=StudiedFactor.TREATMENT), []),
    ("colours that differ where materials are studied", plan(A, replace(B, colour="black")), ["colour differs"]),
    ("two on one day, the third on another", plan(on(A, DAY_A, DAY_A), on(B, DAY_A, DAY_A), on(C, DAY_B, DAY_B)), ["tied to day"]),
    (
        "a sweep whose lower levels were printed first",
        plan(*(at(on(replace(A, name=f"A{i}"), day, day), fan=f) for i, (f, day) in enumerate([(0.0, DAY_A), (30.0, DAY_A), (60.0, DAY_B), (90.0, DAY_B)])), **FAN),
        ["tied to day"],
    ),
    ("days that alternate", plan(on(A, DAY_A, replace(DAY_A, day="3 May")), on(B, DAY_B, replace(DAY_B, day="4 May"))), []),
    ("printers shared out unevenly", plan(on(A, *[DAY_A] * 3, replace(DAY_B, printer="P2")), on(B, DAY_A, *[replace(DAY_B, printer="P2")] * 3)), ["printer differs"]),
    ("printers shared out evenly, one batch more of one", plan(on(A, DAY_A, replace(DAY_B, printer="P2")), on(B, DAY_A, DAY_A, replace(DAY_B, printer="P2"))), []),
    (
        "a setting that is the square of another",
        plan(*(at(replace(A, name=f"A{i}"), fan=t**2, nozzle_temperature=t) for i, t in enumerate((-2.0, -1.0, 0.0, 1.0, 2.0))), **TWO),
        ["settings tied"],
    ),
    (
        "a setting that follows the levels of another, each printed twice",
        plan(*(at(replace(A, name=f"A{i}"), fan=f, nozzle_temperature=t) for i, (f, t) in enumerate([(0, 1), (9, 2), (4, 3), (0, 1), (9, 2), (4, 3)])), **TWO),
        ["settings tied"],
    ),
    ("each on its own day", plan(on(A, DAY_A, DAY_A), on(B, DAY_B, DAY_B)), ["tied to day"]),
    ("a cold day for one", plan(on(A, DAY_A, replace(DAY_B, ambient=20)), on(B, replace(DAY_A, ambient=10), DAY_B)), ["room differs"]),
    ("one batch of one", plan(A, on(B, DAY_A)), ["one batch"]),
    ("one batch of each, on one day", plan(on(A, DAY_A), on(B, DAY_A)), ["one batch"]),
    ("one batch of each, each on its day", plan(on(A, DAY_A), on(B, DAY_B)), ["tied to day", "one batch"]),
    ("not printed yet", plan(on(A), on(B)), []),
    ("two lots in one arm", plan(A, lot(B, "L1", "L2")), ["lots mixed"]),
    ("materials are of different lots", plan(A, lot(B, "L2", "L2")), []),
    ("a sweep from two lots", plan(at(A, fan=0.0), at(lot(SAME, "L2", "L2"), fan=50.0), **FAN), ["lot differs"]),
    ("a treatment of another lot", plan(A, replace(lot(SAME, "L2", "L2"), treatment="annealed"), factor=StudiedFactor.TREATMENT), ["lot differs"]),
    (
        "one takes up no water, the others differ",
        plan(on(A, *(replace(b, moisture="") for b in BOTH)), B, on(C, *(replace(b, moisture="open 40 h") for b in BOTH))),
        ["moisture differs"],
    ),
    ("outside the maker's window", plan(A, replace(B, window={"nozzle_temperature": (235, 255)})), ["outside window"]),
    ("at the edge of the window", plan(A, replace(B, window={"nozzle_temperature": (230, None), "bed_temperature": (60, 70)})), []),
    ("one aged", plan(replace(A, age_days=2), replace(B, age_days=17)), ["age differs"]),
    ("treatments without a control", plan(replace(A, treatment="annealed"), replace(SAME, treatment="soaked"), factor=StudiedFactor.TREATMENT), ["no control"]),
    ("a treatment beside its control", plan(A, replace(SAME, treatment="soaked"), factor=StudiedFactor.TREATMENT), []),
    ("two lots", plan(replace(lot(A, "1", "1"), lot="1"), replace(lot(SAME, "2", "2"), lot="2"), factor=StudiedFactor.LOT), []),
    ("two spools of one lot", plan(replace(A, lot="L1"), replace(SAME, lot="L1"), factor=StudiedFactor.LOT), ["nothing differs"]),
    ("lots of two materials", plan(replace(A, lot="1"), replace(B, lot="2"), factor=StudiedFactor.LOT), ["product differs"]),
    (
        "two printers, each with its nozzle",
        plan(
            replace(A, printer="P1"), replace(on(SAME, *(replace(b, printer="P2", nozzle="steel") for b in BOTH)), printer="P2"), factor=StudiedFactor.PRINTER
        ),
        [],
    ),
    ("one printer twice", plan(replace(A, printer="P1"), replace(SAME, printer="P1"), factor=StudiedFactor.PRINTER), ["nothing differs"]),
    (
        "printers and lots",
        plan(replace(A, printer="P1"), replace(lot(SAME, "L2", "L2"), printer="P2"), factor=StudiedFactor.PRINTER),
        ["lot differs"],
    ),
    ("two rigs", plan(replace(A, rig="Jack"), replace(SAME, rig="Frame"), factor=StudiedFactor.RIG), []),
    ("one rig twice", plan(replace(A, rig="Jack"), replace(SAME, rig="Jack"), factor=StudiedFactor.RIG), ["nothing differs"]),
    (
        "settings that are told to move together",
        plan(at(A, fan=0, flow=95), at(SAME, fan=50, flow=100), factor=StudiedFactor.SETTING, studied=("fan+flow",)),
        [],
    ),
    (
        "settings that move together untold",
        plan(at(A, fan=0, flow=95), at(SAME, fan=50, flow=100), factor=StudiedFactor.SETTING, studied=("fan", "flow")),
        ["settings tied"],
    ),
    (
        "a third setting beside two that move together",
        plan(at(A, fan=0, flow=95), at(SAME, fan=50, flow=100, seam="back"), factor=StudiedFactor.SETTING, studied=("fan+flow",)),
        ["setting differs"],
    ),
    ("a fortnight apart", plan(replace(A, age_days=2), replace(B, age_days=16)), []),
]  # fmt: skip


@pytest.mark.parametrize(("what", "told", "wanted"), TABLE, ids=[t[0] for t in TABLE])
def test_what_a_plan_lacks_is_found_and_nothing_more(what, told, wanted):
    assert [u.name for u in shortcomings(told)] == wanted
    for found in shortcomings(told):
        assert found.costs
        assert found.fix


def texts(told):
    return [u.text for u in shortcomings(told)]


def test_every_difference_is_listed_with_its_values_and_arms():
    labels = {"nozzle_temperature": ("nozzle", "°C"), "brim": ("brim", "mm")}
    assert texts(plan(A, C, at(B, nozzle_temperature=245.0), labels=labels)) == ["nozzle differs: 230 °C (A, C); 245 °C (B)"]
    assert texts(plan(A, at(B, brim=5.0), labels=labels)) == ["brim differs: not said (A); 5 mm (B)"]
    many = [replace(at(A, brim=float(i)), name=f"A{i}") for i in range(6)]
    assert texts(plan(*many, labels=labels))[0].endswith("3 mm (A3); and 2 more")
    assert (
        texts(plan(*(replace(A, name=f"A{i}") for i in range(5)), at(B, spiral_wall=True)))[0]
        == "spiral wall differs: not said (A0, A1, A2 and 2 more); yes (B)"
    )
    (outside,) = shortcomings(plan(A, replace(B, window={"nozzle_temperature": (None, 220)}), labels=labels))
    assert (outside.text, outside.fix) == ("B: nozzle 230 °C, and its maker has at most 220 °C", "print it within at most 220 °C")


def test_a_shortcoming_affects_the_verdicts_of_the_arms_that_differ_from_the_reference():
    told = plan(A, on(B, DAY_A, replace(DAY_B, printer="P2")), at(C, layer_height=0.3, infill=40.0), at(replace(SAME, name="D"), infill=60.0))
    found = shortcomings(told)
    assert {(u.name, u.setting): affected_arms(told, u) for u in found if u.blocking} == {
        ("setting differs", "layer_height"): ["C"],
        ("setting differs", "infill"): ["C", "D"],
        ("printer differs", ""): ["B"],
    }
    assert all(affected_arms(replace(told, reference=None), u) == [] for u in found)


def test_the_run_that_parts_two_settings_is_named():
    (tied,) = shortcomings(plan(at(A, fan=0.0), at(SAME, fan=50.0, nozzle_temperature=245.0), labels={"nozzle_temperature": ("nozzle", "°C")}, **TWO))
    assert tied.text == "nozzle and fan change together"
    assert "nozzle 230 °C with fan 50" in tied.fix
    mended = plan(at(A, fan=0.0), at(SAME, fan=50.0, nozzle_temperature=245.0), at(replace(SAME, name="D"), fan=50.0), **TWO)
    assert shortcomings(mended) == []


def test_what_is_grave_comes_first():
    found = shortcomings(plan(on(A, DAY_A), on(at(B, infill=9.0), DAY_A), reference=None))
    assert [u.blocking for u in found] == [True, True, False]
    assert [u.name for u in found] == ["no reference", "setting differs", "one batch"]


def test_a_window_with_one_end_and_a_treatment_that_is_none_are_told_so():
    low, high = (shortcomings(plan(A, replace(B, window={"nozzle_temperature": w})))[0].text for w in ((235, None), (None, 225)))
    assert low.endswith("its maker has at least 235")
    assert high.endswith("its maker has at most 225")
    differs = next(u for u in shortcomings(plan(A, replace(B, treatment="annealed"))) if u.name == "treatment differs")
    assert differs.text == f"treatment differs: none ({A.name}); annealed ({B.name})"


# ---- crossed plans -------------------------------------------------------------------------------


def crossed(*arms, **more):
    return StudyPlan(StudiedFactor.TREATMENT, arms, arms[0].name, {"Tension": 5}, crosses_materials=True, **more)


def washed(name, product, treatment, *lots):
    return PlannedArm(name, product, "amber", treatment, batches=[Printing(lot=lot) for lot in lots])


def test_materials_crossed_with_a_treatment_are_fair_by_themselves():
    arms = [washed("A", "Everyday", "", "L1"), washed("B", "Everyday", "soaked", "L1"), washed("C", "Tough", "", "L2"), washed("D", "Tough", "soaked", "L2")]
    assert [u.name for u in shortcomings(crossed(*arms)) if u.blocking] == []
    # within a material the lot is to be one
    arms[3] = washed("D", "Tough", "soaked", "L3")
    (lot,) = [u for u in shortcomings(crossed(*arms)) if u.blocking]
    assert (lot.name, lot.text) == ("lot differs", "lot differs: L2 (C); L3 (D)")
    # without being crossed, products may not differ
    plain = StudyPlan(StudiedFactor.TREATMENT, arms, "A", {"Tension": 5})
    assert "product differs" in [u.name for u in shortcomings(plan=plain)]


def test_a_material_without_a_level_of_the_others_is_named():
    arms = [washed("A", "Everyday", ""), washed("B", "Everyday", "soaked"), washed("C", "Tough", ""), washed("D", "Thin", "")]
    (missing,) = [u for u in shortcomings(crossed(*arms)) if u.name == "combinations missing"]
    assert missing.text == "Tough, amber and Thin, amber lack a treatment that the others have"
    assert not missing.blocking
