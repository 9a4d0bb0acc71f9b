"""Graded traits (METHODS 12): several people grade prints from 0 to 4, or put them in order, one trait after another.

Of grades the median counts, of places in an order their mean: 1 is the best print, or the one that shows most of a
trait without a good side; prints between which no difference is seen share the mean of their places.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from statistics import fmean, median
from types import MappingProxyType
from typing import Any, ClassVar

from assayer.core.errors import EntryError
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.inputs import Inputs, Settings, setting
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import PLACE, Field, GradesStep, OrderStep
from assayer.core.methods.traits import TRAITS, trait
from assayer.core.methods.vocabulary import Orientation, Sign
from assayer.core.shapes.bars import BAR, HARDNESS_BLOCK, IMMERSION_COUPON
from assayer.core.shapes.frames import BRACKET
from assayer.core.shapes.gauges import CHECK_PIECE
from assayer.core.stats.verdicts import GoodSide

HIGHEST = 4
FIELDS = tuple(Field(t.name, t.label, "grade", needed=0, usual=0, sign=Sign.ZERO_ALLOWED, by_about=True) for t in TRAITS)
PLACES = tuple(Field(f"{t.name}{PLACE}", f"place by {t.label}", "place", needed=0, usual=0, by_about=True) for t in TRAITS)


_DISTANCES: Mapping[str, str] = MappingProxyType({d: d for d in ("not said", "in the hand", "arm's length", "1 m", "3 m")})
_LIGHTS: Mapping[str, str] = MappingProxyType({light: light for light in ("not said", "daylight", "lamp from the side", "lamp from above", "lamp behind it")})


@dataclass(frozen=True, slots=True)
class GradedProtocol(Settings):
    """What a lab sets: the traits that are graded, the one that verdicts rest on first; from where and in which light they are looked at."""

    traits: tuple[str, ...] = setting(("surface", "stringing", "fine_detail"), "traits, the one that decides first", "grade")
    ordered: bool = setting(False, "put in order against each other, instead of graded by steps")
    distance: str = setting("not said", "viewing distance", choices=_DISTANCES)
    light: str = setting("not said", "light", choices=_LIGHTS)

    def check(self) -> None:
        odd = next((name for name in self.traits if trait(name) is None), None)
        if odd is not None:
            raise EntryError(f"there is no trait '{odd}': choose of {', '.join(t.name for t in TRAITS)}", "traits")
        if not self.traits or len(set(self.traits)) < len(self.traits):
            raise EntryError("choose at least one trait, each once", "traits")


class _Graded(Method):
    protocol: ClassVar[type[Settings]] = GradedProtocol

    def label_for(self, orientation: str, protocol: Mapping[str, Any] | None = None) -> str:
        return "Traits in order" if (protocol or {}).get("ordered") else self.label

    def main_of(self, protocol: Settings) -> str:
        told = protocol if isinstance(protocol, GradedProtocol) else GradedProtocol()
        return f"{'place' if told.ordered else 'median'}@{told.traits[0]}"

    def reduce(self, inputs: Inputs) -> Reduction:
        results: list[Result] = []
        warnings: list[str] = []
        nobodys = next((e for e in inputs.entries if e.about is None), None)
        if nobodys is not None:
            spec = self.field(nobodys.field)
            raise EntryError(f"{spec.label}: each grade says whose it is", spec.name)
        for spec in FIELDS:
            grades = [value for own in inputs.about(spec.name).values() for value in own]
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
        for about, spec in zip(TRAITS, PLACES, strict=True):
            places = [value for own in inputs.about(spec.name).values() for value in own]
            wrong = next((p for p in places if p < 1 or 2 * p % 1), None)
            if wrong is not None:
                raise EntryError(f"{spec.label}: a place counts from 1, by halves where prints share theirs, but got {wrong:g}", spec.name)
            if places:
                results.append(Result("place", fmean(places), "place", about=about.name))
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
        if name == "place":
            return replace(found, label=f"{about.label} in order", good_side=GoodSide.LOWER if about.better else GoodSide.NONE)
        return replace(found, label=f"{about.label}, {found.label}")

    def graded_by(self, key: str) -> str:
        name, _, of = key.partition("@")
        return f"{of}{PLACE}" if name == "place" else of


METHOD = _Graded(
    name="graded",
    label="Graded traits",
    after="own method",
    procedure_version="graded-1",
    reduction_version=1,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(CHECK_PIECE, BRACKET, BAR, HARDNESS_BLOCK, IMMERSION_COUPON),
    own_parts=True,
    steps=(
        GradesStep("grades", "graded from 0 to 4, one trait at a time", FIELDS),
        OrderStep("order", "put in order against each other, one trait at a time", PLACES, optional=True),
    ),
    quantities=(
        QuantitySpec("median", "grade", "grade", GoodSide.HIGHER, ratio_scale=False, by="trait", graded=True),
        QuantitySpec("place", "mean place in order", "place", GoodSide.LOWER, ratio_scale=False, by="trait", graded=True, placed=True),
        QuantitySpec("disagreement", "graders apart by", "grade", GoodSide.NONE, ratio_scale=False, by="trait", graded=True),
    ),
    main="median",
    typical_cv=0.2,
    minutes=1.0,
    outcomes=(Outcome("graded", "graded"),),
    measures="What people see, feel and smell of a print, in written steps from 0 to 4 or by its place among the others; several look.",
    formulas=(
        "grade = median of the graders",
        "place = mean of their places, 1 the best",
        "W = 12 S / (m² (n³ − n))",
        "clearly apart: exact permutation test on mean ranks, p ≤ 0.05",
    ),
)
