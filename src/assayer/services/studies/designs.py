"""Designs of several settings, looked at before a study is made of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from assayer.core.errors import EntryError
from assayer.core.plan.designs import Design, Factor, central_composite, fractional_factorial, full_factorial, latin_hypercube
from assayer.core.settings.declared import Kind, setting
from assayer.services.studies.plan_views import DesignView

if TYPE_CHECKING:
    from assayer.services.studies.requests import DesignQuestion

_LETTERS = "ABCDEFGH"


def design(asked: DesignQuestion) -> DesignView:
    """The runs of a design, and which effects it cannot tell apart, in words.

    Raises
    ------
    EntryError
        If a setting is none, or no number, or there is no such design.
    """
    for told in asked.factors:
        spec = setting(told.name)
        if spec is None or spec.kind is not Kind.NUMBER:
            raise EntryError(f"'{told.name}' is no setting that takes numbers", "factors")
        for value in told.levels:
            if not spec.low <= value <= spec.high:
                raise EntryError(f"{spec.label} {value:g} {spec.unit}: it lies between {spec.low:g} and {spec.high:g} {spec.unit}", told.name)
    made = _made(asked, [Factor(f.name, tuple(f.levels)) for f in asked.factors])
    labels = {letter: spec.chip if (spec := setting(f.name)) else f.name for letter, f in zip(_LETTERS, made.factors, strict=False)}
    return DesignView(
        runs=[list(run) for run in dict.fromkeys(made.runs)],
        aliases=[" = ".join(" × ".join(labels[c] for c in effect) for effect in row) for row in made.aliases],
    )


def _made(asked: DesignQuestion, factors: list[Factor]) -> Design:
    match asked.kind:
        case "fraction":
            return fractional_factorial(factors, asked.halvings)
        case "central composite":
            return central_composite(factors)
        case "Latin hypercube":
            return latin_hypercube(factors, asked.runs, asked.seed)
    return full_factorial(factors)
