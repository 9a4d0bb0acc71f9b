"""What the own methods answer."""

from __future__ import annotations

from datetime import datetime

from assayer.services.own_methods.requests import OwnDefinitionIn
from assayer.services.views import View


class OwnFault(View):
    """What is wrong with a definition: in which part, at which of them from 0, and where in its formula."""

    part: str
    index: int
    text: str
    start: int | None
    end: int | None


class OwnFigure(View):
    """What one result gives for the samples: its unit, and its value or why there is none."""

    name: str
    unit: str | None
    value: float | None
    text: str | None


class OwnTrialView(View):
    """What a definition makes of sample readings, and all that is wrong with it."""

    faults: list[OwnFault]
    figures: list[OwnFigure]
    wrong: dict[str, str]
    """By input: what is wrong with its samples."""
    warnings: list[str]


class OwnMethodView(View):
    """One version of a test of one's own, as it was written."""

    id: str
    family: str
    number: int
    method: str
    label: str
    definition: OwnDefinitionIn
    added_at: datetime
    who: str
    withdrawn_at: datetime | None
    newest: bool
    tests: int
    """Tests that are planned with it."""
    revision: int


class OwnMethodList(View):
    items: list[OwnMethodView]


class OwnLanguage(View):
    """What formulas may be written of."""

    functions: list[str]
    constants: list[str]
    units: list[str]
    grammar: str
