"""One run as a JSON object: what was measured, read by the declaration of its method.

    {"method": "creep", "shape": "creep-frame", "outcome": "…",
     "readings": {"unloaded": 0.366, "gap": [{"after": 1728, "value": 1.021, "ambient": 22.5}, {"after": "20 h", "value": "1.241 mm"}]}}

A value is a number in the base unit or a string as typed, with its unit. A timed reading is an object.
What is unknown, missing or of another dimension is refused, naming the field.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import Any

from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.results import Reduction
from assayer.core.methods.steps import FeaturesStep, Field, GradesStep, RampStep, TraitsStep
from assayer.core.methods.vocabulary import Sign
from assayer.core.quantities.units import DIMENSIONS, FORCE, LENGTH, TEMPERATURE, TIME, Dimension, parse_quantity
from assayer.core.quantities.words import in_text
from assayer.core.shapes.base import FEATURE_KINDS, Feature
from assayer.formats.text import read_bytes

READING_STEP = "reading_step"
_RUN_KEYS = ("method", "shape", "orientation", "outcome", "readings", "expected")
_ENTRY_KEYS = ("after", "value", "ambient", "load", "at")
_FEATURE_KEYS = ("kind", "nominal", "measured")


@dataclass(frozen=True, slots=True)
class RunFile:
    """A run as read: its method, and what its reduction takes."""

    method: Method
    inputs: Inputs

    def reduce(self) -> Reduction:
        return self.method.with_bounds(self.method.reduced(self.inputs), self.inputs.outcome)


def read_run_file(path: Path | str, method_name: str | None = None) -> RunFile:
    """Read a run from a JSON file; see `read_run`."""
    try:
        data = json.loads(read_bytes(path))
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        line = f"line {error.lineno}: " if isinstance(error, json.JSONDecodeError) else ""
        raise EntryError(f"'{path}' is no JSON: {line}{getattr(error, 'msg', error)}") from None
    if not isinstance(data, dict):
        raise EntryError(f"'{path}' must hold one JSON object, a run")
    return read_run(data, method_name)


def read_run(data: Mapping[str, Any], method_name: str | None = None) -> RunFile:
    """Read a run from the object of the open format.

    Parameters
    ----------
    data : mapping
        With `readings`, or the readings alone.
    method_name : str, optional
        Where the object does not say; where it does, both must agree.

    Raises
    ------
    EntryError
        Names the field that is unknown, missing, or of another dimension.
    """
    run = data if "readings" in data else {"readings": data}
    unknown = [k for k in run if k not in _RUN_KEYS]
    if unknown:
        raise EntryError(f"a run has no '{unknown[0]}': it has {', '.join(_RUN_KEYS[:5])}", unknown[0])
    named = run.get("method", method_name)
    if not isinstance(named, str):
        raise EntryError("say which method it is", "method")
    if method_name is not None and named != method_name:
        raise EntryError(f"the file is a run of '{named}', not of '{method_name}'", "method")
    method = find_method(named)
    shape = method.shape(str(run["shape"])) if run.get("shape") else (method.shapes[0] if method.shapes else None)
    if run.get("orientation") is not None and run["orientation"] not in method.orientations:
        raise EntryError(f"orientation must be one of {', '.join(method.orientations)}, but got '{run['orientation']}'", "orientation")
    if not isinstance(run["readings"], Mapping):
        raise EntryError("readings must be an object of fields", "readings")
    readings = dict(run["readings"])
    outcome = method.outcome(str(run["outcome"])).name if run.get("outcome") else None
    if method.outcome_field and method.outcome_field in readings:
        told = _by_symbol(method, readings.pop(method.outcome_field))
        if outcome is not None and outcome != told:
            raise EntryError(f"outcome '{outcome}' and {method.outcome_field} '{told}' say different things", method.outcome_field)
        outcome = told
    return RunFile(method, _inputs(method, readings, shape, outcome))


def _by_symbol(method: Method, symbol: Any) -> str:
    """The outcome that a letter stands for."""
    found = next((o.name for o in method.outcomes if o.symbol == symbol), None)
    if found is None:
        letters = ", ".join(o.symbol for o in method.outcomes if o.symbol)
        raise EntryError(f"{method.outcome_field} must be one of {letters}, but got {symbol!r}", method.outcome_field)
    return found


def _inputs(method: Method, readings: Mapping[str, Any], shape: Any, outcome: str | None) -> Inputs:
    known = {f.name: f for f in method.fields()}
    protocol_fields = {f.name for f in fields(method.protocol)}
    entries: list[Entry] = []
    protocol: dict[str, Any] = {}
    steps: dict[str, float] = {}
    series = {s.series: s for s in method.steps if isinstance(s, RampStep | FeaturesStep | TraitsStep)}
    for name, given in readings.items():
        if name in known:
            entries += _entries(known[name], given)
        elif name in series:
            step = series[name]
            entries += _ramp(step, given) if isinstance(step, RampStep) else _features(step, given) if isinstance(step, FeaturesStep) else _given(step, given)
        elif name in protocol_fields:
            protocol[name] = [_setting(method, name, v) for v in given] if isinstance(given, list) else _setting(method, name, given)
        elif name == READING_STEP:
            steps = {f.name: _value(_stepped(method), given, READING_STEP) for f in method.fields() if f.channel == _stepped(method).channel}
        else:
            has = (*known, *series, *sorted(protocol_fields), *((method.outcome_field,) if method.outcome_field else ()))
            raise EntryError(f"{method.label} has no field '{name}': it has {', '.join(has)}", name)
    made = method.protocol.read(protocol, method.label) if protocol else None
    return Inputs(entries, shape, outcome, steps=steps, protocol=made)


def _stepped(method: Method) -> Field:
    """The field that a bare reading step is of: the one that is read over time, or the last."""
    own = [f for f in method.fields() if f.channel is not None]
    return next((f for f in own if f.timed), own[-1])


def _ramp(step: RampStep, given: Any) -> list[Entry]:
    """Pairs of a temperature and a length, as readings of the last two fields of the step."""
    temperature, sag = step.fields[-2:]
    if not isinstance(given, list):
        raise EntryError(f"{step.series} must be a list of pairs [°C, mm]", step.series)
    entries = []
    for i, pair in enumerate(given):
        if not isinstance(pair, list) or len(pair) != 2:
            raise EntryError(f"{step.series}: reading {i + 1} must be a pair [°C, mm], but got {json.dumps(pair)[:60]}", step.series, i + 1)
        entries.append(Entry(temperature.name, _number(pair[0], TEMPERATURE, step.series), i))
        entries.append(Entry(sag.name, _number(pair[1], LENGTH, step.series), i))
    return entries


def _features(step: FeaturesStep, given: Any) -> list[Entry]:
    """Features with their kind, their nominal size and their readings."""
    (measured,) = step.fields
    if not isinstance(given, list):
        raise EntryError(f"{step.series} must be a list of features", step.series)
    entries: list[Entry] = []
    for i, one in enumerate(given, 1):
        if not isinstance(one, Mapping) or set(one) != set(_FEATURE_KEYS):
            raise EntryError(f"{step.series}: feature {i} must have {', '.join(_FEATURE_KEYS)}", step.series, i)
        name = Feature.parse(f"{one['kind']} {_number(one['nominal'], LENGTH, 'nominal'):.10g}").name
        readings = one["measured"] if isinstance(one["measured"], list) else [one["measured"]]
        if not readings:
            raise EntryError(f"{step.series}: feature {i} has no reading", step.series, i)
        at = sum(e.about == name for e in entries)
        entries += [Entry(measured.name, _value(measured, v), at + k, about=name) for k, v in enumerate(readings)]
    return entries


def _given(step: TraitsStep, given: Any) -> list[Entry]:
    """Grades or places by trait, each with whose it is."""
    what = step.said
    if not isinstance(given, Mapping):
        raise EntryError(f"{step.series} must be an object: the {what}s by trait", step.series)
    traits = {step.trait(f.name): f for f in step.fields}
    entries = []
    for name, own in given.items():
        if name not in traits:
            raise EntryError(f"there is no trait '{name}': there is {', '.join(traits)}", step.series)
        if not isinstance(own, list):
            raise EntryError(f"{name}: the {what}s are a list", name)
        for i, one in enumerate(own, 1):
            if not isinstance(one, Mapping) or set(one) != {"grader", what}:
                raise EntryError(f"{name}: {what} {i} must have grader and {what}", name, i)
            entries.append(Entry(traits[name].name, _value(traits[name], one[what]), 0, about=str(one["grader"])[:80]))
    return entries


def _setting(method: Method, name: str, given: Any) -> float | bool | str:
    """A setting of the protocol: yes or no, one of its choices, a number in its base unit, or a string with such a unit."""
    declared = next(s for s in method.protocol.declared() if s.name == name)
    if declared.choices:
        return str(given)
    if isinstance(declared.default, bool):
        if not isinstance(given, bool):
            raise EntryError(f"{name} must be true or false, but got {given!r}", name)
        return given
    if isinstance(given, bool) or not isinstance(given, int | float | str):
        raise EntryError(f"{name} must be a number, but got {given!r}", name)
    if not isinstance(given, str):
        return float(given)
    return parse_quantity(given, DIMENSIONS[declared.dimension], field=name).value


def _entries(spec: Field, given: Any) -> list[Entry]:
    if spec.by_about:
        if not isinstance(given, Mapping):
            raise EntryError(f"{spec.name} must be an object: the readings by what they are of", spec.name)
        return [replace(e, about=str(name)[:80]) for name, own in given.items() for e in _listed(spec, own)]
    return _listed(spec, given)


def _listed(spec: Field, given: Any) -> list[Entry]:
    values = given if isinstance(given, list) else [given]
    return [_entry(spec, value, position) for position, value in enumerate(values)]


def _entry(spec: Field, given: Any, position: int) -> Entry:
    if spec.yes_no and isinstance(given, bool):
        return Entry(spec.name, float(given), position)
    if not isinstance(given, Mapping):
        if spec.timed or spec.by_load:
            raise EntryError(f'{spec.name}: each reading is an object with "after" and "value"', spec.name, position + 1)
        return Entry(spec.name, _value(spec, given), position)
    odd = [k for k in given if k not in _ENTRY_KEYS]
    if odd:
        raise EntryError(f"{spec.name}: a reading has no '{odd[0]}': it has {', '.join(_ENTRY_KEYS)}", spec.name, position + 1)
    if "value" not in given:
        raise EntryError(f"{spec.name}: reading {position + 1} has no value", spec.name, position + 1)
    after, load = given.get("after"), given.get("load")
    if spec.timed and after is None:
        raise EntryError(f"{spec.name}: reading {position + 1} needs its time (after)", spec.name, position + 1)
    if spec.by_load and load is None:
        raise EntryError(f"{spec.name}: reading {position + 1} needs its load", spec.name, position + 1)
    return Entry(
        spec.name,
        _value(spec, given["value"]),
        position,
        None if after is None else _number(after, TIME, spec.name),
        None if load is None else _number(load, FORCE, spec.name),
        None if given.get("ambient") is None else _number(given["ambient"], TEMPERATURE, spec.name),
    )


def _value(spec: Field, given: Any, name: str | None = None) -> float:
    return _number(given, spec.of_dimension, name or spec.name)


def _number(given: Any, dimension: Dimension, name: str) -> float:
    if isinstance(given, str):
        try:
            return parse_quantity(given, dimension, field=name).value
        except EntryError as error:
            raise EntryError(f"{name}: {error}", name) from error
    if isinstance(given, bool) or not isinstance(given, int | float):
        raise EntryError(f"{name} must be a number in {dimension.base} or a text with its unit, but got {given!r}", name)
    return float(given)


# ---- JSON Schema ----------------------------------------------------------------------------------


def _by_trait_schema(step: TraitsStep, value: dict[str, Any]) -> dict[str, Any]:
    one = {"type": "object", "additionalProperties": False, "required": ["grader", step.said], "properties": {"grader": {"type": "string"}, step.said: value}}
    return {"type": "object", "additionalProperties": False, "properties": {step.trait(f.name): {"type": "array", "items": one} for f in step.fields}}


def schema_of(method: Method) -> dict[str, Any]:
    """JSON Schema (2020-12) of a run of one method."""
    properties: dict[str, Any] = {}
    for spec in method.fields():
        reading = _timed_schema(spec) if spec.timed or spec.by_load else _number_schema(spec.of_dimension, spec.sign, spec.label)
        many: dict[str, Any] = {"type": "array", "items": reading}
        own = many if spec.timed or spec.by_load else {"oneOf": [reading, many]}
        if spec.yes_no:
            own = {"description": spec.label, "type": "boolean"}
        properties[spec.name] = {"type": "object", "additionalProperties": own} if spec.by_about else own
    for step in method.steps:
        if isinstance(step, RampStep):
            pair = {"type": "array", "minItems": 2, "maxItems": 2, "items": {"type": ["number", "string"]}}
            properties[step.series] = {"description": "pairs of temperature (°C) and deflection (mm)", "type": "array", "items": pair}
        elif isinstance(step, FeaturesStep):
            properties[step.series] = {"type": "array", "items": _feature_schema(step.fields[0])}
        elif isinstance(step, TraitsStep):
            grade = {"type": "integer", "minimum": 0, "maximum": 4}
            properties[step.series] = _by_trait_schema(step, grade if isinstance(step, GradesStep) else {"type": "number", "minimum": 1, "multipleOf": 0.5})
    for absorbed in [f.name for s in method.steps if isinstance(s, FeaturesStep | TraitsStep) for f in s.fields]:
        del properties[absorbed]
    if method.outcome_field:
        properties[method.outcome_field] = {"enum": [o.symbol for o in method.outcomes if o.symbol]}
    for setting in fields(method.protocol):
        properties[setting.name] = {"description": "set by the lab; base units", "default": method.protocol().as_dict().get(setting.name)}
    if any(f.channel for f in method.fields()):
        properties[READING_STEP] = _number_schema(_stepped(method).of_dimension, Sign.ABOVE_ZERO, "the step in which the rig shows a reading")
    series = {f.name: s.series for s in method.steps if isinstance(s, FeaturesStep) for f in s.fields}
    needed = [series.get(f.name, f.name) for f in method.fields() if f.needed and f.default is None]
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"A run of {in_text(method.label)}",
        "type": "object",
        "additionalProperties": False,
        "required": ["readings"],
        "properties": {
            "method": {"const": method.name},
            "shape": {"enum": [s.name for s in method.shapes]},
            "orientation": {"enum": list(method.orientations)},
            "outcome": {"enum": [o.name for o in method.outcomes]},
            "readings": {"type": "object", "additionalProperties": False, "required": needed, "properties": properties},
        },
    }


def _number_schema(dimension: Dimension, sign: Sign, label: str) -> dict[str, Any]:
    bound = {Sign.ABOVE_ZERO: {"exclusiveMinimum": 0}, Sign.ZERO_ALLOWED: {"minimum": 0}, Sign.EITHER: {}}[sign]
    return {"description": f"{label}, {dimension.base} or with a unit", "oneOf": [{"type": "number"} | bound, {"type": "string"}]}


def _timed_schema(spec: Field) -> dict[str, Any]:
    own: dict[str, Any] = {
        "after": _number_schema(TIME, Sign.ZERO_ALLOWED, f"time after {(spec.counts_from or '').replace('_', ' ')}"),
        "value": _number_schema(spec.of_dimension, spec.sign, spec.label),
        "ambient": _number_schema(TEMPERATURE, Sign.EITHER, "ambient"),
        "at": {"type": "string", "format": "date-time"},
    }
    if spec.by_load:
        own["load"] = _number_schema(FORCE, Sign.ABOVE_ZERO, "load")
    needed = ["value", *(["after"] if spec.timed else []), *(["load"] if spec.by_load else [])]
    return {"type": "object", "additionalProperties": False, "required": needed, "properties": own}


def _feature_schema(spec: Field) -> dict[str, Any]:
    reading = _number_schema(spec.of_dimension, spec.sign, spec.label)
    own = {
        "kind": {"enum": list(FEATURE_KINDS)},
        "nominal": _number_schema(LENGTH, Sign.ABOVE_ZERO, "nominal size"),
        "measured": {"oneOf": [reading, {"type": "array", "items": reading, "minItems": 1}]},
    }
    return {"type": "object", "additionalProperties": False, "required": list(_FEATURE_KEYS), "properties": own}
