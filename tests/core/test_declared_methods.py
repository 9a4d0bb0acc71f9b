"""Creep, stepped bending, shear and hardness against METHODS, and what holds for whatever is declared."""

from dataclasses import replace

import numpy as np
import pytest

from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.derived import DERIVED
from assayer.core.methods.inputs import Entry, Inputs, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.stepped_bending import SteppedProtocol
from assayer.core.methods.steps import Field, PlainStep
from assayer.core.methods.vocabulary import Bound, Sign, StepKind, SubjectKind
from assayer.core.quantities.units import DIMENSIONS
from assayer.core.stats.findley import fit_findley
from assayer.core.stats.verdicts import GoodSide

DAY, HOUR = 86400.0, 3600.0
T = (0.02, 0.8, 1.7, 2.6, 4.2, 6.1)
D = (1.013, 1.207, 1.268, 1.318, 1.383, 1.436)


def creep_of(pairs, **more):
    return Inputs([Entry("gap", v, i, after=t) for i, (t, v) in enumerate(pairs)], **more)


def reduce(name, inputs):
    return REGISTRY[name].reduce(inputs)


def test_findley_example_of_the_methods():
    fit = fit_findley(T, D)
    assert (fit.d0, fit.a, fit.n) == (pytest.approx(0.91813, abs=5e-6), pytest.approx(0.30315, abs=5e-6), pytest.approx(0.29535, abs=5e-6))
    result = reduce("creep", creep_of([(t * DAY, d) for t, d in zip(T, D, strict=True)])).get("creep_at_horizon")
    assert result.value == pytest.approx(0.36722, abs=5e-6)
    assert (result.interval.high - result.interval.low) / 2 == pytest.approx(0.01562, abs=5e-6)


def test_findleys_interval_covers_what_it_says():
    """95 % prediction interval over 500 seeds of synthetic data: between 92 and 98 %."""
    days = np.array([0.02, 0.2, 0.5, 1, 2, 3, 4.5, 6])
    covered = 0
    for seed in range(500):
        rng = np.random.default_rng(seed)
        noise = rng.normal(0, 0.01, len(days) + 1)
        values = 0.9 + 0.3 * days**0.3 + noise[:-1]
        ends = fit_findley(days.tolist(), values.tolist()).prediction(100 / 24)
        covered += ends.low <= 0.9 + 0.3 * (100 / 24) ** 0.3 + noise[-1] <= ends.high
    assert 0.92 <= covered / 500 <= 0.98, covered / 500


def test_creep_without_a_fit_is_interpolated_and_never_carried_beyond_the_readings():
    few = [(60.0, 20.4), (24 * HOUR, 20.5), (120 * HOUR, 20.9)]
    found = reduce("creep", creep_of(few))
    log = np.interp(np.log(100), np.log([1 / 60, 24, 120]), [20.4, 20.5, 20.9]) - 20.4
    assert found.get("creep_at_horizon").value == pytest.approx(log, rel=1e-9)
    assert any("interpolated" in w for w in found.warnings)
    short = reduce("creep", creep_of(few[:2]))
    assert short.get("creep_at_horizon") is None
    assert any("lies before it" in w for w in short.warnings)


def test_what_breaks_before_the_horizon_creeps_at_least_so_much_and_to_come_is_provisional():
    pairs = [(t * DAY, d) for t, d in zip((0.02, 0.8, 1.7, 2.2, 2.6, 3.0), D, strict=True)]
    broke = reduce("creep", creep_of(pairs, outcome="broke")).get("creep_at_horizon")
    assert (broke.bound, broke.value) == (Bound.AT_LEAST, pytest.approx(D[-1] - D[0]))
    assert reduce("creep", creep_of(pairs)).get("creep_at_horizon").provisional
    assert not reduce("creep", creep_of(pairs, outcome="carried")).get("creep_at_horizon").provisional


def test_a_warm_room_and_a_gap_that_closes_are_remarked():
    entries = [Entry("gap", v, i, after=60.0 * 10**i, ambient=t) for i, (v, t) in enumerate(((20.4, 21.0), (20.6, 26.1), (20.5, 21.0)))]
    remarks = " ".join(reduce("creep", Inputs(entries)).warnings)
    assert "21 to 26.1 °C" in remarks
    assert "smaller than the one before" in remarks
    steady = [replace(e, ambient=21.0, value=20.4 + 0.1 * i) for i, e in enumerate(entries)]
    assert "°C" not in " ".join(reduce("creep", Inputs(steady)).warnings)


def test_recovery_read_a_little_late_is_compared_at_its_set_time():
    """356 s and 372 s are both the 0.1 h of the protocol; 500 s is no set time and stays its own."""
    pairs = [Entry("unloaded", 20.0), Entry("gap", 20.4, 0, after=60.0), Entry("gap", 20.5, 1, after=HOUR)]
    late = [Entry("recovery", 20.3, 0, after=372.0), Entry("recovery", 20.2, 1, after=500.0), Entry("recovery", 20.1, 2, after=1.08 * HOUR)]
    shares = {r.key: r.value for r in reduce("creep", Inputs([*pairs, *late])).results if r.quantity == "recovered_share"}
    assert shares == {"recovered_share@360": pytest.approx(0.4), "recovered_share@500": pytest.approx(0.6), "recovered_share@3600": pytest.approx(0.8)}


def stepped(rows, span=56.0, outcome=None, protocol=None, **more):
    entries = [Entry("width", 10.0), Entry("thickness", 4.0)]
    entries += [Entry("deflection", s, i, after=t, load=f) for i, (f, t, s) in enumerate(rows)]
    return reduce("stepped-bending", Inputs(entries, geometry={"span": span}, outcome=outcome, protocol=protocol, **more))


def test_stepped_examples_of_the_methods():
    two = [(40.0, t, 0.61) for t in (5, 20, 80)] + [(80.0, t, 1.25) for t in (5, 20, 80)] + [(120.0, t, 1.9) for t in (5, 20, 80)]
    found = stepped(two)
    assert found.get("stress@120").value == pytest.approx(63.000, abs=5e-4)
    modulus = next(r for r in found.results if r.quantity.startswith("modulus"))
    assert modulus.value == pytest.approx(4287.50, rel=0.02)


def test_the_load_carried_steadily_is_a_value_or_a_bound():
    creeping = [(20.0, 5, 0.60), (20.0, 20, 0.61), (20.0, 80, 0.61), (40.0, 5, 1.2), (40.0, 20, 1.3), (40.0, 80, 1.5)]
    protocol = SteppedProtocol(ladder=(20.0, 40.0))
    assert stepped(creeping, protocol=protocol).get("load_carried").value == 20.0
    steady = stepped([r for r in creeping if r[0] == 20.0], protocol=SteppedProtocol(ladder=(20.0,)), outcome="held").get("load_carried")
    assert (steady.value, steady.bound) == (20.0, Bound.AT_LEAST)
    drift = stepped(creeping, protocol=protocol).get("drift@40").value
    assert drift == pytest.approx(100 * (1.5 - 1.2) / 1.2, rel=1e-9)


def test_shear_and_hardness_by_hand():
    sheared = reduce("shear", Inputs([Entry("width", 5.0), Entry("thickness", 4.0), Entry("sections", 2.0), Entry("peak_force", 800.0)]))
    assert sheared.get("shear_strength").value == pytest.approx(800 / (2 * 5 * 4))
    soft = reduce("hardness", Inputs([Entry("indents", v, i) for i, v in enumerate((70.0, 72.0))]))
    assert soft.get("shore_d").value == 71.0
    assert any("2 of the five" in w for w in soft.warnings)


# what holds for whatever is declared ---------------------------------------------------------------------------------


class _Tilt(Method):
    """Deliberately odd: signed readings, three channels, two sessions, a tower band as its subject."""

    def reduce(self, inputs):
        tilt, warm, load = need(inputs, TILT), need(inputs, WARM), need(inputs, LOAD)
        slope = float(np.polyfit(warm, tilt, 1)[0])
        results = [Result("tilt_per_degree", slope, "mm", reading_step=inputs.step("tilt")), Result("tilt_at", tilt[-1], "mm", load=load[-1])]
        return self.made(results, ["leans back"] if slope < 0 else [])


TILT = Field("tilt", "tilt", "length", needed=2, usual=4, channel="tilt", sign=Sign.EITHER)
WARM = Field("warm", "temperature", "temperature", needed=2, usual=4, channel="warm", sign=Sign.EITHER)
LOAD = Field("load_hung", "load", "force", channel="load", sign=Sign.ZERO_ALLOWED)
ODD = _Tilt(
    name="tilt",
    label="Tilt",
    after="own",
    procedure_version="tilt-1",
    reduction_version=1,
    orientations=("upright",),
    shapes=(),
    steps=(PlainStep("first", "first session", (TILT, LOAD)), PlainStep("second", "second session", (WARM,))),
    quantities=(QuantitySpec("tilt_per_degree", "tilt per degree", "mm", GoodSide.LOWER), QuantitySpec("tilt_at", "tilt", "mm", GoodSide.NONE, by="load")),
    main="tilt_per_degree",
    outcomes=(Outcome("fell", "fell over", {"tilt_per_degree": Bound.AT_LEAST}),),
    subject=SubjectKind.BAND,
    measures="How far a tower leans.",
    formulas=("k = Δs / ΔT",),
)


@pytest.mark.parametrize("method", [*REGISTRY.values(), ODD], ids=lambda m: m.name)
def test_whatever_is_declared_holds_together(method):
    names = [f.name for f in method.fields()]
    assert len(names) == len(set(names))
    quantities = {q.name: q for q in method.quantities}
    assert method.main in quantities
    assert method.measures
    assert method.formulas
    for field in method.fields():
        assert field.dimension in DIMENSIONS
        assert 0 <= field.needed <= max(field.usual, field.needed)
        assert method.field(field.name) is field
    for step in method.steps:
        assert isinstance(step.kind, StepKind)
    for outcome in method.outcomes:
        assert set(outcome.bounds) <= set(quantities), f"{outcome.name} bounds what the method does not yield"
        if outcome.place is not None:
            low, high = outcome.place
            assert 0 <= low < high <= 0.5
    for spec in method.quantities:
        assert spec.by in (None, "load", "after", "trait")
        assert spec.plausible is None or spec.plausible[0] < spec.plausible[1]
        assert spec.unit or spec.good_side is GoodSide.NONE
    assert not {d.name for d in DERIVED.values()} & set(quantities), "a derived quantity hides one of its own"
    with pytest.raises(EntryError) as refused:
        method.reduce(Inputs([], geometry={}))
    assert refused.value.field in names, "an empty entry names the field that is missing"
    assert method.protocol.read(method.protocol().as_dict(), method.label) == method.protocol()


def test_the_odd_method_goes_through_reduce_with_all_it_has_of_its_own():
    entries = [Entry("tilt", v, i) for i, v in enumerate((0.4, 0.1, -0.3))] + [Entry("warm", t, i) for i, t in enumerate((-10.0, 0.0, 12.0))]
    reduction = ODD.reduce(Inputs([*entries, Entry("load_hung", 0.0)], steps={"tilt": 0.05}))
    assert reduction.get("tilt_per_degree").value == pytest.approx(np.polyfit((-10, 0, 12), (0.4, 0.1, -0.3), 1)[0])
    assert (reduction.get("tilt_at@0").value, reduction.warnings) == (-0.3, ["leans back"])
    assert isinstance(reduction, Reduction)
    with pytest.raises(EntryError, match="tilt"):
        ODD.reduce(Inputs([Entry("tilt", 0.1), Entry("warm", 1.0), Entry("warm", 2.0, 1), Entry("load_hung", 1.0)]))
    with pytest.raises(EntryError, match="load"):
        LOAD.check(-1.0)


def test_a_count_is_what_was_typed_before_the_rigs_before_the_default():
    """Shear over one section: METHODS 4, τ = F / (n·b·h)."""
    plain = [Entry("width", 5.0), Entry("thickness", 4.0), Entry("peak_force", 400.0)]

    def sections(typed=(), **geometry):
        found = reduce("shear", Inputs([*plain, *typed], geometry=geometry)).get("shear_strength").value
        return 400.0 / (5.0 * 4.0) / found

    assert sections() == pytest.approx(2)
    assert sections(sections=1.0) == pytest.approx(1)
    assert sections([Entry("sections", 2.0)], sections=1.0) == pytest.approx(2)
    assert sections([Entry("sections", 1.0)]) == pytest.approx(1)


def test_the_view_of_steps_shows_each_load_at_its_middle_and_all_it_was_read():
    """The drawing of a stepped bending: the origin, then a point a load, in the order of the loads."""
    rows = [(40.0, 5, 1.20), (20.0, 5, 0.60), (20.0, 20, 0.61), (20.0, 80, 0.62), (40.0, 20, 1.25), (40.0, 80, 1.31)]
    entries = [Entry("deflection", s, i, after=t, load=f) for i, (f, t, s) in enumerate(rows)]
    for protocol in (None, SteppedProtocol(ladder=(20.0, 40.0))):
        view = REGISTRY["stepped-bending"].view(Inputs(entries, geometry={"span": 56.0}, protocol=protocol))
        assert (view.x.tolist(), view.y.tolist()) == ([0.0, 0.61, 1.25], [0.0, 20.0, 40.0])
        assert view.points
        assert view.marks["readings@20"] == (5, 0.60, 20, 0.61, 80, 0.62) or view.marks["readings@20"] == (0.60, 5, 0.61, 20, 0.62, 80)
    assert view.marks["carried"] == (20.0,), "40 N drifted by 9 %"
