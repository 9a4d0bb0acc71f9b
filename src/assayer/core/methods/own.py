"""A test of one's own: typed inputs, formulas over them, and how it can end; made into a method like those delivered."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise
from typing import Any

from assayer.core.errors import EntryError
from assayer.core.formulas.dimensions import UNITS, Dim, in_unit, natural_unit, of_dimension
from assayer.core.formulas.errors import FormulaError
from assayer.core.formulas.formula import CONSTANTS, FUNCTIONS, Formula, check_formula
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import USUAL_SCATTER, Field, PlainStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.quantities.units import DIMENSIONS
from assayer.core.shapes import SHAPES
from assayer.core.stats.verdicts import GoodSide, Margin

MOST_INPUTS = 20
MOST_RESULTS = 12
_NAME = re.compile(r"[a-z][a-z_]{0,38}\Z")


@dataclass(frozen=True, slots=True)
class OwnInput:
    """What is read: its name in formulas, its words, its dimension, and how many readings are needed and usual.

    `scatter`: how far readings of it may lie apart before it is asked whether one is right, as a share.
    """

    name: str
    label: str
    dimension: str
    needed: int = 1
    usual: int = 1
    sign: Sign = Sign.ABOVE_ZERO
    scatter: float = USUAL_SCATTER


@dataclass(frozen=True, slots=True)
class OwnResult:
    """What follows: a formula over inputs and earlier results; `unit` empty: the one that it naturally has.

    `margin` is the smallest difference that matters, a share of the reference or in its own unit.
    """

    name: str
    label: str
    formula: str
    unit: str = ""
    good_side: GoodSide = GoodSide.HIGHER
    target: float = 0.0
    margin: float = 0.10
    margin_relative: bool = True


@dataclass(frozen=True, slots=True)
class OwnOutcome:
    """How it can end; `bound` says what that makes of one input, from which it follows for the results.

    `input`: which; where none is named, the first that is a load (else the first). `results`: those that it bounds;
    where none is named, all that depend on the input. A result that falls as the input rises is bounded the other way.
    """

    label: str
    bound: Bound = Bound.EXACT
    results: tuple[str, ...] = ()
    input: str = ""


@dataclass(frozen=True, slots=True)
class OwnDefinition:
    """A whole test as somebody wrote it."""

    label: str
    measures: str
    inputs: tuple[OwnInput, ...]
    results: tuple[OwnResult, ...]
    outcomes: tuple[OwnOutcome, ...] = ()
    shapes: tuple[str, ...] = ()
    orientations: tuple[Orientation, ...] = tuple(Orientation)
    own_parts: bool = True
    minutes: float = 4.0
    typical_cv: float = 0.08


@dataclass(frozen=True, slots=True)
class Fault:
    """What is wrong with a definition: in which part ("inputs", "results", …), at which of them from 0, and where in its formula."""

    part: str
    index: int
    text: str
    start: int | None = None
    end: int | None = None


@dataclass(frozen=True, slots=True)
class Checked:
    """A definition with its formulas read; `faults` empty where it can be used.

    `units` by result: what each is given in.
    """

    formulas: Mapping[str, Formula]
    units: Mapping[str, str]
    faults: Sequence[Fault]


def check_definition(told: OwnDefinition) -> Checked:
    """Everything that is wrong with a definition, each with its place; formulas that stand are read even beside faulty ones."""
    faults = [*_about_whole(told), *_about_names(told)]
    names: dict[str, Dim] = {i.name: of_dimension(i.dimension)[0] for i in told.inputs if i.dimension in DIMENSIONS}
    temperatures = {i.name for i in told.inputs if i.dimension == "temperature"}
    formulas: dict[str, Formula] = {}
    units: dict[str, str] = {}
    for at, result in enumerate(told.results):
        try:
            formula = check_formula(result.formula, names, temperatures)
        except FormulaError as error:
            faults.append(Fault("results", at, error.message, error.start, error.end))
            continue
        unit = result.unit or natural_unit(formula.dim, formula.is_temperature)
        if not unit:
            faults.append(Fault("results", at, f"{formula.dim.words()} has no unit here: what it measures is nothing that is compared"))
        elif unit not in UNITS or UNITS[unit][0] != formula.dim:
            faults.append(Fault("results", at, f"the formula gives {formula.dim.words()}, which is not a matter of {unit}"))
        else:
            units[result.name] = unit
        formulas[result.name] = formula
        names[result.name] = formula.dim
        temperatures |= {result.name} if formula.is_temperature else set()
    return Checked(formulas, units, faults)


def _about_whole(told: OwnDefinition) -> list[Fault]:
    faults = []
    if not told.label.strip():
        faults.append(Fault("label", 0, "give the test a name"))
    if not 1 <= len(told.inputs) <= MOST_INPUTS:
        faults.append(Fault("inputs", 0, f"from 1 to {MOST_INPUTS} inputs"))
    if not 1 <= len(told.results) <= MOST_RESULTS:
        faults.append(Fault("results", 0, f"from 1 to {MOST_RESULTS} results"))
    if not told.orientations:
        faults.append(Fault("orientations", 0, "say how the specimens are printed"))
    if not told.shapes and not told.own_parts:
        faults.append(Fault("shapes", 0, "say on which shape it is done, or on parts of your own"))
    faults += [Fault("shapes", i, f"there is no shape '{name}'") for i, name in enumerate(told.shapes) if name not in SHAPES]
    labels = [_outcome_name(o.label) for o in told.outcomes]
    for i, o in enumerate(told.outcomes):
        if not o.label.strip() or labels.index(labels[i]) != i:
            faults.append(Fault("outcomes", i, "each outcome has words of its own"))
        faults += [Fault("outcomes", i, f"there is no result '{r}'") for r in o.results if r not in {q.name for q in told.results}]
        if o.input and o.input not in {x.name for x in told.inputs}:
            faults.append(Fault("outcomes", i, f"there is no input '{o.input}'"))
    return faults


def _about_names(told: OwnDefinition) -> list[Fault]:
    faults = []
    seen: set[str] = set()
    named = [*(("inputs", i, x.name, x.label) for i, x in enumerate(told.inputs)), *(("results", i, x.name, x.label) for i, x in enumerate(told.results))]
    for part, i, name, label in named:
        if not _NAME.match(name):
            faults.append(Fault(part, i, "a name in formulas is made of small letters and _, such as peel_force"))
        elif name in seen or name in CONSTANTS or name in FUNCTIONS:
            faults.append(Fault(part, i, f"'{name}' is taken: another input, result, constant or function is called so"))
        seen.add(name)
        if not label.strip():
            faults.append(Fault(part, i, "give it words to be shown by"))
    for i, given in enumerate(told.inputs):
        if given.dimension not in DIMENSIONS:
            faults.append(Fault("inputs", i, f"there is no dimension '{given.dimension}'"))
        if not 0 <= given.needed <= given.usual <= 12 or given.usual < 1:
            faults.append(Fault("inputs", i, "from 1 to 12 readings are usual, and no more are needed than are usual"))
        if not 0 < given.scatter <= 10:
            faults.append(Fault("inputs", i, "the scatter of its readings is a share above 0, such as 0.08"))
    for i, result in enumerate(told.results):
        if not 0 < result.margin < 1e9:
            faults.append(Fault("results", i, "the difference that matters is above 0"))
    return faults


@dataclass(frozen=True)
class OwnMethod(Method):
    """A method made of a definition; `definition` and what was read of it."""

    definition: OwnDefinition = field(default_factory=lambda: OwnDefinition("", "", (), ()))

    @cached_property
    def checked(self) -> Checked:
        return check_definition(self.definition)

    def reduce(self, inputs: Inputs) -> Reduction:
        readings: dict[str, Sequence[float]] = {}
        absent: dict[str, Field] = {}
        for spec in self.fields():
            values = need(inputs, spec)
            factor = of_dimension(spec.dimension)[1]
            if values:
                readings[spec.name] = [v * factor for v in values]
            else:
                absent[spec.name] = spec
        results: list[Result] = []
        warnings: list[str] = []
        for result in self.definition.results:
            formula = self.checked.formulas.get(result.name)
            if formula is None:
                warnings.append(f"no {result.label}: its formula has to be changed, in a new version of the test")
                continue
            lacking = next((absent[n].label if n in absent else n for n in sorted(formula.names) if n not in readings), None)
            if lacking is not None:
                warnings.append(f"no {result.label}: {lacking} was not read")
                continue
            try:
                value = formula.value(readings)
            except FormulaError as error:
                place = formula.text[error.start : error.end] or formula.text
                if result is self.definition.results[0]:
                    raise EntryError(f"{result.label}, at '{place}': {error.message}", next(iter(formula.names), None)) from None
                warnings.append(f"no {result.label}, at '{place}': {error.message}")
                continue
            readings[result.name] = [value]
            unit = self.checked.units[result.name]
            step = self._step(inputs, result.name, readings, value) / UNITS[unit][1]
            results.append(Result(result.name, in_unit(value, unit, formula.is_temperature), unit, reading_step=step))
        if not results:
            raise EntryError(warnings[0] if warnings else "nothing was read", next((f.name for f in absent.values()), None))
        return self.made(*self._with_ways(inputs, results, warnings, readings))

    def _with_ways(
        self, inputs: Inputs, results: Sequence[Result], warnings: Sequence[str], readings: Mapping[str, Sequence[float]]
    ) -> tuple[list[Result], list[str]]:
        """Which way each result goes with the input that the outcome bounds; one that goes both ways is not given."""
        outcome = next((o for o in self.definition.outcomes if _outcome_name(o.label) == inputs.outcome), None)
        bounded = _bounded_input(self.definition, outcome)
        given, warned = [], list(warnings)
        for result in results:
            way = self._way(result.quantity, bounded, readings)
            if way is None and outcome is not None and outcome.bound is not Bound.EXACT:
                label = next(i.label for i in self.definition.inputs if i.name == bounded)
                warned.append(f"no {result.quantity}: {label} is only a bound, and it may lie on either side")
                continue
            given.append(replace(result, with_bound=way if way is not None else 0))
        return given, warned

    def _way(self, name: str, bounded: str, readings: Mapping[str, Sequence[float]]) -> int | None:
        """1 where a result rises with an input, −1 where it falls, 0 where it does not depend on it; None where it does both."""
        values = [readings[name][0]]
        for factor in _LARGER:
            moved = {**readings, bounded: [v + (factor - 1) * (abs(v) or 1.0) for v in readings.get(bounded, [])]}
            try:
                self._move_results(moved, name)
            except FormulaError:
                break
            values.append(moved[name][0])
        ways = {(b > a) - (b < a) for a, b in pairwise(values)} - {0}
        if len(ways) > 1:
            return None
        return ways.pop() if ways else 0

    def _move_results(self, moved: dict[str, Sequence[float]], name: str) -> None:
        """Work out the results up to one anew, since an input may come in through those before it."""
        for result in self.definition.results:
            if result.name in moved:
                moved[result.name] = [self.checked.formulas[result.name].value(moved)]
            if result.name == name:
                return

    def _step(self, inputs: Inputs, name: str, readings: Mapping[str, Sequence[float]], value: float) -> float:
        """What one step of each reading changes of a result, the root of the sum of squares, in coherent units."""
        squares = 0.0
        for spec in self.fields():
            step = inputs.step(spec.name) * of_dimension(spec.dimension)[1]
            values = readings.get(spec.name, ())
            for at in range(len(values)) if step else ():
                moved = {**readings, name: [value], spec.name: [v + step * (i == at) for i, v in enumerate(values)]}
                try:
                    self._move_results(moved, name)
                except FormulaError:
                    continue
                squares += (moved[name][0] - value) ** 2
        return math.sqrt(squares)


_LARGER = (1.0001, 1.01, 1.2, 2.0, 5.0, 20.0)
"""Multiples of a bounded reading at which it is seen which way a result goes."""
_LOADS = ("force", "torque", "energy", "stress")


def _bounded_input(definition: OwnDefinition, outcome: OwnOutcome | None) -> str:
    """The input that is a bound when a run ends so."""
    if outcome is not None and outcome.input:
        return outcome.input
    return next((i.name for i in definition.inputs if i.dimension in _LOADS), definition.inputs[0].name)


def own_method(name: str, version: str, definition: OwnDefinition, stored: bool = False) -> OwnMethod:
    """A method of a definition.

    Parameters
    ----------
    name, version : str
        How tests name it, and the version of its procedure.
    told : OwnDefinition
    stored : bool
        Whether it was accepted before: then a formula that is no longer allowed only loses its result.

    Raises
    ------
    EntryError
        With the first fault, if it has any.
    """
    checked = check_definition(definition)
    if checked.faults and not stored:
        raise EntryError(checked.faults[0].text, checked.faults[0].part, checked.faults[0].index + 1)
    fields = tuple(Field(i.name, i.label, i.dimension, i.needed, i.usual, i.sign, channel=_channel(i), scatter=i.scatter) for i in definition.inputs)
    quantities = tuple(_quantity(r, checked.units.get(r.name, r.unit)) for r in definition.results)
    outcomes = tuple(Outcome(_outcome_name(o.label), o.label.strip(), _bounds(o, definition.results)) for o in definition.outcomes)
    return OwnMethod(
        name=name, label=definition.label.strip(), after="own method", procedure_version=version, reduction_version=2,
        orientations=tuple(definition.orientations), shapes=tuple(SHAPES[s] for s in definition.shapes), steps=(PlainStep("readings", "readings", fields),),
        quantities=quantities, main=definition.results[0].name, outcomes=outcomes, own_parts=definition.own_parts, measures=definition.measures,
        typical_cv=definition.typical_cv, minutes=definition.minutes, formulas=tuple(f"{r.name} = {r.formula}" for r in definition.results),
        definition=definition,
    )  # fmt: skip


def definition_of(kept: Mapping[str, Any]) -> OwnDefinition:
    """A definition as it was kept (`asdict` of one, through JSON)."""
    return OwnDefinition(
        label=kept["label"],
        measures=kept["measures"],
        inputs=tuple(OwnInput(**{**i, "sign": Sign(i["sign"])}) for i in kept["inputs"]),
        results=tuple(OwnResult(**{**r, "good_side": GoodSide(r["good_side"])}) for r in kept["results"]),
        outcomes=tuple(OwnOutcome(o["label"], Bound(o["bound"]), tuple(o["results"]), o.get("input", "")) for o in kept["outcomes"]),
        shapes=tuple(kept["shapes"]),
        orientations=tuple(Orientation(o) for o in kept["orientations"]),
        own_parts=kept["own_parts"],
        minutes=kept["minutes"],
        typical_cv=kept["typical_cv"],
    )


def _outcome_name(label: str) -> str:
    """Letters and blanks of its words, as runs keep it."""
    plain = re.sub(r"[^a-z ]+", "", label.strip().lower())
    cut = plain if len(plain) <= 20 else plain[:21].rsplit(" ", 1)[0][:20]
    return cut.strip() or "other"


def _bounds(o: OwnOutcome, results: Sequence[OwnResult]) -> Mapping[str, Bound]:
    return {} if o.bound is Bound.EXACT else dict.fromkeys(o.results or [r.name for r in results], o.bound)


def _channel(given: OwnInput) -> str:
    return given.dimension.replace(" ", "_")


def _quantity(r: OwnResult, unit: str) -> QuantitySpec:
    return QuantitySpec(r.name, r.label, unit, r.good_side, ratio_scale=r.margin_relative, margin=Margin(r.margin, r.margin_relative), target=r.target)
