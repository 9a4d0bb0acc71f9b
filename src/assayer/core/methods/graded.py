"""Graded traits (METHODS 12): several people grade prints from 0 to 4, one trait after another; the median counts."""

from __future__ import annotations

from dataclasses import dataclass, replace
from statistics import median
from typing import ClassVar

from assayer.core.errors import EntryError
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.inputs import Inputs, Settings, setting
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Field, GradesStep
from assayer.core.methods.traits import TRAITS, trait
from assayer.core.methods.vocabulary import Orientation, Sign
from assayer.core.shapes.bars import BAR, HARDNESS_BLOCK, IMMERSION_COUPON
from assayer.core.shapes.frames import BRACKET
from assayer.core.shapes.gauges import CHECK_PIECE
from assayer.core.stats.verdicts import GoodSide

HIGHEST = 4
FIELDS = tuple(Field(t.name, t.label, "grade", needed=0, usual=0, sign=Sign.ZERO_ALLOWED, by_about=True) for t in TRAITS)


@dataclass(frozen=True, slots=True)
class GradedProtocol(Settings):
    """What a lab sets: the traits that are graded, the one that verdicts rest on first."""

    traits: tuple[str, ...] = setting(("surface", "stringing", "fine_detail"), "traits, the one that decides first", "grade")

    def check(self) -> None:
        odd = next((name for name in self.traits if trait(name) is None), None)
        if odd is not None:
            raise EntryError(f"there is no trait '{odd}': choose of {', '.join(t.name for t in TRAITS)}", "traits")
        if not self.traits or len(set(self.traits)) < len(self.traits):
            raise EntryError("choose at least one trait, each once", "traits")


class _Graded(Method):
    protocol: ClassVar[type[Settings]] = GradedProtocol

    def main_of(self, protocol: Settings) -> str:
        traits = protocol.traits if isinstance(protocol, GradedProtocol) else GradedProtocol().traits
        return f"median@{traits[0]}"

    def reduce(self, inputs: Inputs) -> Reduction:
        results: list[Result] = []
        warnings: list[str] = []
        for spec in FIELDS:
            grades = [value for own in inputs.about(spec.name).values() for value in own]
            if any(e.field == spec.name and e.about is None for e in inputs.entries):
                raise EntryError(f"{spec.label}: each grade says whose it is", spec.name)
            wrong = next((g for g in grades if g not in range(HIGHEST + 1)), None)
            if wrong is not None:
                raise EntryError(f"{spec.label}: a grade is a whole step from 0 to {HIGHEST}, but got {wrong:g}", spec.name)
            if not grades:
                continue
            apart = max(grades) - min(grades)
            results.append(Result("median", float(median(grades)), "grade", about=spec.name))
            results.append(Result("disagreement", apart, "grade", about=spec.name))
            if apart >= 2:
                warnings.append(f"{spec.label}: the graders are {apart:g} steps apart, look at it together")
        if not results:
            raise EntryError("grade at least one trait", FIELDS[0].name)
        return self.made(results, warnings)

    def quantity(self, key: str) -> QuantitySpec:
        name, _, of = key.partition("@")
        found = next((q for q in self.quantities if q.name == name), None)
        about = trait(of)
        if found is None or about is None:
            raise EntryError(f"{self.label} has no quantity '{key}'", "quantity")
        if name == "median":
            return replace(found, label=about.label, good_side=GoodSide.HIGHER if about.better else GoodSide.NONE)
        return replace(found, label=f"{about.label}, {found.label}")


METHOD = _Graded(
    name="graded",
    label="Graded traits",
    after="own method",
    procedure_version="graded-1",
    reduction_version=1,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(CHECK_PIECE, BRACKET, BAR, HARDNESS_BLOCK, IMMERSION_COUPON),
    own_parts=True,
    steps=(GradesStep("grades", "graded from 0 to 4, one trait at a time", FIELDS),),
    quantities=(
        QuantitySpec("median", "grade", "grade", GoodSide.HIGHER, ratio_scale=False, by="trait", graded=True),
        QuantitySpec("disagreement", "graders apart by", "grade", GoodSide.NONE, ratio_scale=False, by="trait", graded=True),
    ),
    main="median",
    typical_cv=0.2,
    minutes=1.0,
    outcomes=(Outcome("graded", "graded"),),
    measures="What people see, feel and smell of a print, in written steps from 0 to 4; several look, and the median counts.",
    formulas=("grade = median of the graders", "clearly apart: exact permutation test on mean ranks, p ≤ 0.05"),
)
