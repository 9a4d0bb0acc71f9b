"""What a settings sheet says: values with their source, schedules over layers, regions; and how two sheets differ."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from assayer.core.errors import EntryError
from assayer.core.quantities.words import Value as Value
from assayer.core.settings.declared import SETTINGS, Kind, SettingSpec, setting


class Source(StrEnum):
    """Where a value came from."""

    ENTERED = "entered"
    MAKER = "maker's window"
    GENERAL = "general"
    OTHER_SHEET = "another material's sheet"
    CALIBRATION = "calibration"
    TRIAL = "trial"


@dataclass(frozen=True, slots=True)
class Schedule:
    """A number that moves by `step` every so many layers until it reaches `end`."""

    step: float
    every: int
    end: float

    def at(self, start: float, layer: int) -> float:
        """Its value in a layer, counted from 1, where the first ones have `start`."""
        moved = start + self.step * ((layer - 1) // self.every)
        return max(moved, self.end) if self.step < 0 else min(moved, self.end)


@dataclass(frozen=True, slots=True)
class Region:
    """A part of the print that is set otherwise."""

    where: str
    value: Value


@dataclass(frozen=True, slots=True)
class Set:
    """One setting as a sheet has it."""

    value: Value
    source: Source = Source.ENTERED
    schedule: Schedule | None = None
    regions: tuple[Region, ...] = ()


@dataclass(frozen=True, slots=True)
class Extra:
    """A field of a sheet's own, beyond those that are declared."""

    label: str
    value: float | str
    unit: str = ""


@dataclass(frozen=True, slots=True)
class Sheet:
    """A whole sheet: settings by name, extra fields, and which program made the file."""

    values: Mapping[str, Set] = field(default_factory=dict)
    extras: tuple[Extra, ...] = ()
    prepared_with: str = ""

    def number(self, name: str) -> float | None:
        held = self.values.get(name)
        return float(held.value) if held is not None and not isinstance(held.value, str | bool) else None


@dataclass(frozen=True, slots=True)
class Difference:
    """One thing in which two sheets differ; None where one does not say."""

    name: str
    before: Set | None
    after: Set | None
    label: str
    unit: str = ""

    @property
    def step(self) -> float | None:
        """How far a number moved."""
        values = [s.value if s is not None else None for s in (self.before, self.after)]
        if any(v is None or isinstance(v, str | bool) for v in values):
            return None
        return float(values[1]) - float(values[0])  # type: ignore[arg-type]


PREPARED = "prepared_with"
"""Stands beside the settings where two sheets differ in the program that made their files."""


def check_sheet(sheet: Sheet) -> None:
    """Refuse what cannot be set.

    Raises
    ------
    EntryError
        Names the setting.
    """
    for name, held in sheet.values.items():
        spec = setting(name)
        if spec is None:
            raise EntryError(f"'{name}' is no setting: add it as an extra field", name)
        for value in (held.value, *(r.value for r in held.regions)):
            _check(spec, value)
        if held.schedule is not None:
            _check_schedule(spec, held.value, held.schedule)
    labels = [e.label.casefold() for e in sheet.extras]
    for label in labels:
        if labels.count(label) > 1 or label in {s.label for s in SETTINGS}:
            raise EntryError(f"'{label}' is there twice", "extras")


def _check(spec: SettingSpec, value: Value) -> None:
    if spec.kind is Kind.FLAG:
        if not isinstance(value, bool):
            raise EntryError(f"{spec.label}: yes or no is meant", spec.name)
    elif spec.kind is Kind.NUMBER:
        if isinstance(value, str | bool):
            raise EntryError(f"{spec.label}: a number is meant", spec.name)
        if not spec.low <= value <= spec.high:
            unit = f" {spec.unit}" if spec.unit else ""
            raise EntryError(f"{spec.label} {value:g}{unit}: it lies between {spec.low:g} and {spec.high:g}{unit}", spec.name)
        if spec.whole and value != round(value):
            raise EntryError(f"{spec.label} {value:g}: a whole number is meant", spec.name)
    elif not isinstance(value, str) or not value.strip():
        raise EntryError(f"{spec.label}: words are meant", spec.name)
    elif spec.kind is Kind.CHOICE and value not in spec.choices:
        raise EntryError(f"{spec.label} '{value}': one of {', '.join(spec.choices)} is meant", spec.name)


def _check_schedule(spec: SettingSpec, start: Value, schedule: Schedule) -> None:
    if spec.kind is not Kind.NUMBER or isinstance(start, str | bool):
        raise EntryError(f"{spec.label} is no number: it cannot move over layers", spec.name)
    if schedule.step == 0 or schedule.every < 1:
        raise EntryError(f"{spec.label}: a schedule moves by a step, every so many layers", spec.name)
    if (schedule.end - start) * schedule.step < 0:
        way = "falls" if schedule.step < 0 else "rises"
        raise EntryError(f"{spec.label} {way} from {start:g}: it can never reach {schedule.end:g}", spec.name)
    _check(spec, schedule.end)


def differences(before: Sheet, after: Sheet) -> list[Difference]:
    """What differs between two sheets, in the order of the declarations; where a value came from does not."""
    found = []
    for spec in SETTINGS:
        a, b = before.values.get(spec.name), after.values.get(spec.name)
        if _meaning(a) != _meaning(b):
            found.append(Difference(spec.name, a, b, spec.chip, spec.unit))
    own_before, own_after = ({e.label: e for e in s.extras} for s in (before, after))
    for label in dict.fromkeys((*own_before, *own_after)):
        a_extra, b_extra = own_before.get(label), own_after.get(label)
        if a_extra != b_extra:
            unit = (b_extra or a_extra or Extra("", "")).unit
            found.append(Difference(label, _as_set(a_extra), _as_set(b_extra), label, unit))
    if before.prepared_with != after.prepared_with:
        told_before, told_after = (Set(s.prepared_with) if s.prepared_with else None for s in (before, after))
        found.append(Difference(PREPARED, told_before, told_after, "prepared with"))
    return found


def _meaning(held: Set | None) -> object:
    return None if held is None else (held.value, held.schedule, held.regions)


def _as_set(extra: Extra | None) -> Set | None:
    return None if extra is None else Set(extra.value)


def changed(sheet: Sheet, name: str, value: Value, source: Source = Source.TRIAL) -> Sheet:
    """The sheet with one setting changed."""
    return Sheet({**sheet.values, name: Set(value, source)}, sheet.extras, sheet.prepared_with)
