"""Exposure to liquids, water, damp heat, light or weather (METHODS 11): mass and sizes over time.

Each medium is a procedure of its own: liquids after ISO 175, water after ISO 62, the others own methods.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median
from types import MappingProxyType
from typing import Any, ClassVar

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.graded import HIGHEST
from assayer.core.methods.inputs import Entry, Inputs, Settings, check_increasing, need, setting
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Along, BeforeAfterStep, Field, RoundsStep
from assayer.core.methods.vocabulary import Orientation, Sign
from assayer.core.plan.due import set_time
from assayer.core.shapes.bars import BAR, IMMERSION_COUPON
from assayer.core.shapes.pull_bars import PULL_BARS
from assayer.core.stats.verdicts import GoodSide, Margin

HOUR, DAY = 3600.0, 86400.0

MASS_BEFORE = Field("mass_before", "mass, dry", "mass", needed=0, channel="mass")
SIZES_BEFORE = Field("sizes_before", "size, dry", "length", needed=0, usual=0, channel="length", by_about=True)
MASS = Field("mass", "mass, wiped dry", "mass", needed=0, usual=5, channel="mass", counts_from="exposed")
SIZES = Field("sizes", "size", "length", needed=0, usual=0, channel="length", counts_from="exposed", by_about=True)

_NAMES = ("length", "width", "thickness")
_GRADES: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {
        "looks": ("crazed, cracked or bleached", "much changed in colour or gloss", "changed, seen at once", "hardly changed", "as before"),
        "feel": ("gone soft, sticky or brittle", "much softer, or chalky", "softer or rougher", "hardly changed", "as before"),
        "distortion": ("lost its shape", "bent by more than its thickness", "bent, seen at once", "bent, seen on a flat plate only", "straight as before"),
    }
)
"""What each grade from 0 to 4 of a specimen that was exposed looks like, beside one that was not."""
GRADED = tuple(Field(name, name, "grade", needed=0, usual=0, sign=Sign.ZERO_ALLOWED, counts_from="exposed", by_about=True) for name in _GRADES)


_MEDIA: Mapping[str, str] = MappingProxyType(
    {"not said": "not said", "liquid": "a liquid", "water": "water", "damp heat": "damp heat", "light": "light", "weather": "weather"}
)
_STANDARDS: Mapping[str, str] = MappingProxyType({"liquid": "ISO 175", "water": "ISO 62"})
"""By medium; exposure to the others, or to what nobody named, follows none."""


@dataclass(frozen=True, slots=True)
class ExposureProtocol(Settings):
    """What a lab sets: the medium with its concentration in % by mass, temperature in °C and volume in ml, and when readings are due, in s."""

    medium: str = setting("not said", "exposed to", choices=_MEDIA)
    concentration: float | None = setting(None, "concentration, % by mass")
    temperature: float | None = setting(None, "temperature of the medium", "temperature")
    volume: float | None = setting(None, "volume of liquid for each specimen, ml")
    dried: bool = setting(False, "first dried at 50 °C to constant mass")
    due: tuple[float, ...] = setting((DAY, 4 * DAY, 7 * DAY, 14 * DAY, 28 * DAY), "weighed after", "time")
    sizes: bool = setting(False, "length, width and thickness are measured each time")
    looks: bool = setting(False, "looks, feel and distortion are graded each time")

    def check(self) -> None:
        check_increasing(self.due, "due", "reading times")
        for name in ("concentration", "volume"):
            value = getattr(self, name)
            if value is not None and not (np.isfinite(value) and value > 0):
                raise EntryError(f"{name} must be greater than 0, but got {value:g}", name)
        if self.concentration is not None and self.concentration > 100:
            raise EntryError(f"a concentration is at most 100 %, but got {self.concentration:g}", "concentration")


class _Exposure(Method):
    protocol: ClassVar[type[Settings]] = ExposureProtocol

    def procedure_of(self, protocol: Settings) -> str:
        medium = _told(protocol).medium
        return self.procedure_version if medium == "not said" else f"{self.procedure_version}, {medium}"

    def after_of(self, protocol: Settings) -> str:
        return _STANDARDS.get(_told(protocol).medium, self.after)

    def label_for(self, orientation: str, protocol: Mapping[str, Any] | None = None) -> str:
        medium = str((protocol or {}).get("medium", "not said"))
        return self.label if medium == "not said" else f"{self.label} to {_MEDIA.get(medium, medium)}"

    def along(self, protocol: Settings) -> Sequence[Along]:
        told = _told(protocol)
        names = _NAMES if told.sizes else ()
        grades = _GRADES.items() if told.looks else ()
        return (
            *(Along(SIZES_BEFORE.name, f"{name}, dry", name, before=True) for name in names),
            *(Along(SIZES.name, name, name) for name in names),
            *(Along(name, name, None, words) for name, words in grades),
        )

    def graded_by(self, key: str) -> str:
        return ""

    def reduce(self, inputs: Inputs) -> Reduction:
        protocol = _told(inputs.protocol)
        before, later = _course(inputs.timed("mass"), need(inputs, MASS_BEFORE), "mass")
        results = [Result("mass_change", 100 * (e.value - before) / before, "%", after=e.after) for e in _at_set_times(later, protocol.due)] if before else []
        before_by_name = inputs.about(SIZES_BEFORE.name)
        names = dict.fromkeys((*before_by_name, *(e.about or "" for e in inputs.timed("sizes"))))
        # each dimension by itself: a print swells unlike along and across its layers
        for name in names:
            own = [e for e in inputs.timed("sizes") if (e.about or "") == name]
            size, after = _course(own, before_by_name.get(name, []), "sizes")
            if size:
                changes = [(e.after, 100 * (e.value - size) / size) for e in _at_set_times(after, protocol.due)]
                results += [Result("size_change", change, "%", after=at, about=name or None) for at, change in changes]
        for spec in GRADED:
            results += _graded(inputs.timed(spec.name), protocol.due)
        if not results:
            raise EntryError("a mass before and at least one later reading, with its time, are needed", "mass")
        warnings = []
        if len(later) > 1 and before and abs(later[-1].value - later[-2].value) > 0.1 * abs(later[-1].value - before):
            warnings.append("still changing: the last two masses differ by more than a tenth of the whole change")
        if protocol.medium == "water" and not protocol.dried:
            warnings.append("not said to be dried at 50 °C to constant mass before: own method, near ISO 62")
        return replace(self.made(results, warnings), procedure_version=self.procedure_of(protocol))

    def main_of(self, protocol: Settings) -> str:
        return f"{self.main}@{_told(protocol).due[-1]:.10g}"

    def view(self, inputs: Inputs) -> CurveView | None:
        before, later = _course(inputs.timed("mass"), need(inputs, MASS_BEFORE), "mass")
        if not before or not later:
            return None
        # diffusion goes with the root of time: a straight start on this axis
        x = np.sqrt([0.0, *((e.after or 0.0) / DAY for e in later)])
        y = np.array([0.0, *(100 * (e.value - before) / before for e in later)])
        return CurveView(x, y, "root of time", "√day", "mass change", "%", {}, points=True)


def _told(protocol: Settings | None) -> ExposureProtocol:
    return protocol if isinstance(protocol, ExposureProtocol) else ExposureProtocol()


def _graded(given: Sequence[Entry], due: Sequence[float]) -> list[Result]:
    """At each set time the median of what the people gave then."""
    wrong = next((e for e in given if e.value not in range(HIGHEST + 1)), None)
    if wrong is not None:
        raise EntryError(f"{wrong.field}: a grade is a whole step from 0 to {HIGHEST}, but got {wrong.value:g}", wrong.field)
    by_time: dict[float, list[float]] = {}
    for who in dict.fromkeys(e.about for e in given):
        for e in _at_set_times([e for e in given if e.about == who], due):
            by_time.setdefault(e.after or 0.0, []).append(e.value)
    return [Result(given[0].field, float(median(values)), "grade", after=after) for after, values in sorted(by_time.items())]


def _course(timed: Sequence[Entry], typed_before: Sequence[float], field: str) -> tuple[float | None, list[Entry]]:
    """The value before (typed, or the one at time 0), None where it is not known, and the later readings."""
    at_zero = [e.value for e in timed if e.after == 0]
    later = [e for e in timed if (e.after or 0.0) > 0]
    before = (list(typed_before) or at_zero)[-1:]
    for value in (*before, *(e.value for e in later)):
        if not (np.isfinite(value) and value > 0):
            raise EntryError(f"{field} must be greater than 0, but got {value:g}", field)
    return (before[0] if before else None), later


def _at_set_times(entries: Sequence[Entry], due: Sequence[float]) -> list[Entry]:
    """Readings at their set times, so that specimens are compared at the same one; of several in one window the nearest."""
    nearest: dict[float, Entry] = {}
    for e in entries:
        seconds = e.after or 0.0
        at = set_time(seconds, due)
        if at not in nearest or abs(seconds - at) < abs((nearest[at].after or 0.0) - at):
            nearest[at] = e
    return [Entry(e.field, e.value, e.position, at, e.load, e.ambient, e.about) for at, e in sorted(nearest.items())]


METHOD = _Exposure(
    name="exposure",
    label="Exposure",
    after="own method",
    procedure_version="exposure-1",
    reduction_version=2,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(IMMERSION_COUPON, BAR, *PULL_BARS),
    steps=(
        BeforeAfterStep("before", "dry mass, before it goes in", (MASS_BEFORE, SIZES_BEFORE), optional=True),
        RoundsStep("exposed", "mass, wiped dry", (MASS, SIZES, *GRADED), due="due", begin="lower it in: the clock runs from Enter", begun="It is in"),
    ),
    quantities=(
        QuantitySpec(
            "mass_change", "mass change", "%", GoodSide.NONE, ratio_scale=False, plausible=(-20.0, 40.0), margin=Margin(0.2, relative=False), by="after"
        ),
        QuantitySpec(
            "size_change",
            "size change",
            "%",
            GoodSide.NEAR,
            ratio_scale=False,
            plausible=(-10.0, 20.0),
            margin=Margin(0.2, relative=False),
            target=0.0,
            by="after",
        ),
        *(QuantitySpec(name, name, "grade", GoodSide.HIGHER, ratio_scale=False, by="after", graded=True) for name in _GRADES),
    ),
    main="mass_change",
    typical_cv=0.05,
    minutes=5.0,
    count=3,
    outcomes=(
        Outcome("as before", "looks and feels as before"),
        Outcome("changed", "changed in colour or feel"),
        Outcome("crazed", "crazed, cracked or gone soft"),
        Outcome("fell apart", "fell apart", early=True),
    ),
    measures="What a print takes up or gives off in a liquid, damp heat, light or weather, and how its sizes, looks and feel change. "
    "Liquids follow ISO 175, water ISO 62; damp heat, light and weather are own methods.",
    formulas=(
        "mass change = 100 · (m(t) − m₀) / m₀",
        "size change = 100 · (l(t) − l₀) / l₀, of each dimension",
        "looks, feel, distortion = median of the graders",
    ),
)
