"""What a reduction is given: entries in base units, and what lab and user have set."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import MISSING, dataclass, field, fields
from itertools import pairwise
from typing import Any

import numpy as np

from assayer.core.curves.recording import Recording
from assayer.core.errors import EntryError
from assayer.core.methods.steps import Field
from assayer.core.shapes.base import Shape


@dataclass(frozen=True, slots=True)
class Entry:
    """One reading: of which field, at which place, when and under which load.

    `after` in s from the event that the field counts from; `load` in N; `ambient` in °C; `about` names the
    feature, the size or the grader that it is of.
    """

    field: str
    value: float
    position: int = 0
    after: float | None = None
    load: float | None = None
    ambient: float | None = None
    about: str | None = None


@dataclass(frozen=True, slots=True)
class Setting:
    """One thing that a lab sets: `default` is a number, several numbers, yes or no, or one of `choices` (words by name); None: not recorded."""

    name: str
    label: str
    dimension: str
    default: Any
    choices: Mapping[str, str]


def setting(default: Any, label: str, dimension: str = "number", choices: Mapping[str, str] | None = None) -> Any:
    """A field of a protocol with the words and the dimension that it is shown in, and what may be chosen where it is no number."""
    return field(default=default, metadata={"label": label, "dimension": dimension, "choices": choices or {}})


def _as_declared(name: str, value: Any, default: Any) -> Any:
    """A value of the kind of its default."""
    if isinstance(default, bool):
        if value not in (True, False, 0, 1):
            raise EntryError(f"{name.replace('_', ' ')} must be yes or no, but got {value!r}", name)
        return bool(value)
    if isinstance(value, list | tuple):
        if default is not MISSING and default is not None and not isinstance(default, tuple):
            raise EntryError(f"{name.replace('_', ' ')} must be one number", name)
        words = isinstance(default, tuple) and bool(default) and isinstance(default[0], str)
        return tuple(str(v) if words else float(v) for v in value)
    if isinstance(default, tuple):
        raise EntryError(f"{name.replace('_', ' ')} must be a list of numbers", name)
    return value


@dataclass(frozen=True, slots=True)
class Settings:
    """Base of protocols (what a lab sets for a test) and options (what a user sets on a run)."""

    @classmethod
    def read(cls, values: Mapping[str, Any], what: str) -> Any:
        """Settings with the given values.

        Raises
        ------
        EntryError
            If a name is unknown, or a value is of another kind than its default; names it.
        """
        known = {f.name: f for f in fields(cls)}
        read: dict[str, Any] = {}
        for name, value in values.items():
            if name not in known:
                raise EntryError(f"{what} has no '{name}'" + (f": it has {', '.join(known)}" if known else ""), name)
            choices = known[name].metadata.get("choices")
            if choices and value not in choices:
                raise EntryError(f"{name.replace('_', ' ')} must be one of {', '.join(choices)}, but got '{value}'", name)
            read[name] = _as_declared(name, value, known[name].default)
        made = cls(**read)
        made.check()
        return made

    def check(self) -> None:
        """Refuse values that cannot be; names the field."""

    @classmethod
    def declared(cls) -> list[Setting]:
        """What may be set, with the words and the dimension it is shown in."""
        return [
            Setting(f.name, f.metadata.get("label", f.name.replace("_", " ")), f.metadata.get("dimension", "number"), f.default, f.metadata.get("choices", {}))
            for f in fields(cls)
        ]

    def as_dict(self) -> dict[str, Any]:
        found = {f.name: getattr(self, f.name) for f in fields(self)}
        return {name: list(value) if isinstance(value, tuple) else value for name, value in found.items() if value is not None}


def check_increasing(values: Sequence[float], name: str, label: str) -> None:
    """Refuse a ladder or a set of times that does not rise from above 0."""
    if not values:
        raise EntryError(f"{label}: at least one is needed", name)
    if not all(np.isfinite(v) and v > 0 for v in values) or any(b <= a for a, b in pairwise(values)):
        raise EntryError(f"{label} must rise and be greater than 0, but got {', '.join(f'{v:g}' for v in values)}", name)


@dataclass(frozen=True, slots=True)
class Inputs:
    """What was captured of one run, in base units and calibrated, ready to be reduced.

    Attributes
    ----------
    entries : sequence of Entry
    shape : Shape or None
    outcome : str or None
    recording : Recording or None
    compliance : float or None, mm/N
        Of the rig; None: not known.
    compliance_uncertainty : float, mm/N
        Its standard uncertainty.
    geometry : mapping of name to float
        Of the rig, such as its span in mm.
    steps : mapping of field to float
        The step in which the rig shows a field, in base units.
    protocol, options : Settings or None
        None: as delivered.
    printed : mapping of name to float
        How the specimen was printed, such as its share of the print time in s.
    """

    entries: Sequence[Entry]
    shape: Shape | None = None
    outcome: str | None = None
    recording: Recording | None = None
    compliance: float | None = None
    geometry: Mapping[str, float] = field(default_factory=dict)
    steps: Mapping[str, float] = field(default_factory=dict)
    protocol: Settings | None = None
    options: Settings | None = None
    printed: Mapping[str, float] = field(default_factory=dict)
    compliance_uncertainty: float = 0.0

    def values(self, name: str) -> list[float]:
        """The readings of a field in the order of their places."""
        return [e.value for e in sorted((e for e in self.entries if e.field == name), key=lambda e: e.position)]

    def about(self, name: str) -> dict[str, list[float]]:
        """The readings of a field by what they are of, in the order they were first met."""
        found: dict[str, list[float]] = {}
        for entry in sorted((e for e in self.entries if e.field == name and e.about is not None), key=lambda e: e.position):
            found.setdefault(entry.about or "", []).append(entry.value)
        return found

    def pairs(self, first: str, second: str) -> list[tuple[float, float]]:
        """Readings of two fields that stand at the same position."""
        seconds = {e.position: e.value for e in self.entries if e.field == second}
        firsts = sorted((e for e in self.entries if e.field == first), key=lambda e: e.position)
        return [(e.value, seconds[e.position]) for e in firsts if e.position in seconds]

    def timed(self, name: str) -> list[Entry]:
        """The readings of a timed field that have a time, in the order of their times."""
        return sorted((e for e in self.entries if e.field == name and e.after is not None), key=lambda e: e.after or 0.0)

    def step(self, name: str) -> float:
        """The reading step of a field; 0 where it is not known."""
        return self.steps.get(name, 0.0)


def need(inputs: Inputs, spec: Field) -> list[float]:
    """The readings of a field, checked; where none was entered, what the rig or the print says of it, or its default.

    Raises
    ------
    EntryError
        If fewer than are needed were entered, or a value is not finite or of the wrong sign; names the field.
    """
    values = inputs.values(spec.name)
    if not values and spec.from_rig is not None and spec.from_rig in inputs.geometry:
        values = [inputs.geometry[spec.from_rig]]
    if not values and spec.from_print is not None and spec.from_print in inputs.printed:
        values = [inputs.printed[spec.from_print]]
    if not values and spec.default is not None:
        return [spec.default]
    if len(values) < spec.needed:
        count = "at least one reading is" if spec.needed == 1 else f"at least {spec.needed} readings are"
        raise EntryError(f"{spec.label}: {count} needed", spec.name)
    for value in values:
        if not np.isfinite(value):
            raise EntryError(f"{spec.label} must be a finite number, but got {value:g}", spec.name)
        spec.check(value)
    return values
