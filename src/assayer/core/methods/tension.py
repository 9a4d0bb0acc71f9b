"""Tension, flat or on edge or upright (METHODS 1), from a peak or from a recorded curve.

References
----------
1. ISO 527-1:2019, determination of tensile properties, general principles.
2. ASTM D638-22, Annex A1 (toe compensation).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, ClassVar

import numpy as np

from assayer.core.curves.breaking import BreakPoint, find_break
from assayer.core.curves.course import Course, course_of
from assayer.core.curves.recording import Floats, Recording
from assayer.core.curves.remarks import clipped, sudden_drops
from assayer.core.curves.travel import TravelScale
from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Inputs, Settings, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.sections import Section
from assayer.core.methods.steps import Field, PeakStep, RecordingStep, SectionStep
from assayer.core.methods.vocabulary import Bound, Orientation
from assayer.core.shapes.pull_bars import PULL_BARS, PullBar
from assayer.core.stats.verdicts import GoodSide

PROCEDURE_VERSION = "tension-1"
REDUCTION_VERSION = 4
"""2: an outcome bounds the quantities it names only (a grip break leaves the modulus exact). 3: the modulus is that of the first passage of its range.
4: travel over the effective length of the shape; nominal and extensometer strain and offset yield under their own names; the strain of a flat maximum."""

WIDTH = Field("width", "width", "length", usual=3, channel="length", nominal="width")
THICKNESS = Field("thickness", "thickness", "length", usual=3, channel="length", nominal="thickness")
GAUGE_LENGTH = Field("gauge_length", "effective length by hand", "length", needed=0, usual=0)
PEAK_FORCE = Field("peak_force", "load when it broke", "force", needed=0, channel="force")

_TRAVEL, _EXTENSOMETER = "", "extensometer_"
"""What a strain was read from, as its quantities begin."""
_CUT_SHORT = ("strain_at_strength", "strain_at_break", "energy_to_break")
_BOUNDED = (
    "strength", "stress_at_break", "peak_force", "nominal_strain_at_break", *(f"{source}{name}" for source in (_TRAVEL, _EXTENSOMETER) for name in _CUT_SHORT),
)  # fmt: skip
"""What a break outside the parallel part cuts short; the modulus was read long before."""
_LOWER = MappingProxyType(dict.fromkeys(_BOUNDED, Bound.AT_LEAST))

STRENGTHS = MappingProxyType({"PLA": (15.0, 110.0), "PETG": (8.0, 100.0), "ASA": (6.0, 90.0), "ABS": (6.0, 90.0), "PA": (8.0, 180.0), "PC": (8.0, 130.0),
    "PP": (3.0, 70.0), "TPU": (3.0, 70.0), "PET": (8.0, 130.0)})  # fmt: skip
"""MPa that a class of polymers can reach, filled grades and layers included; an own rule of thumb, only to ask."""
MODULI = MappingProxyType({"PLA": (500.0, 15000.0), "PETG": (400.0, 12000.0), "ASA": (400.0, 10000.0), "ABS": (400.0, 10000.0), "PA": (200.0, 20000.0),
    "PC": (400.0, 14000.0), "PP": (200.0, 9000.0), "TPU": (3.0, 1500.0), "PET": (400.0, 15000.0)})  # fmt: skip


@dataclass(frozen=True, slots=True)
class TensionOptions(Settings):
    """What a user may set on a run: the strains between which the modulus is taken."""

    modulus_range: tuple[float, float] | None = None

    def check(self) -> None:
        if self.modulus_range is None:
            return
        if len(self.modulus_range) != 2 or not 0 <= self.modulus_range[0] < self.modulus_range[1]:
            raise EntryError("the strain range of the modulus must run from a lower to a higher strain, neither below 0", "modulus_range")


class _Tension(Method):
    options: ClassVar[type[Settings]] = TensionOptions

    def reduce(self, inputs: Inputs) -> Reduction:
        section = Section(need(inputs, WIDTH), need(inputs, THICKNESS))
        if inputs.recording is not None:
            return _curve_of(inputs, inputs.recording, section).reduction
        peaks = need(inputs, PEAK_FORCE)
        if not peaks:
            raise EntryError("enter the load when it broke, or drop the recorded curve", "peak_force")
        return reduce_peak(section, peaks[-1])

    def view(self, inputs: Inputs) -> CurveView | None:
        if inputs.recording is None:
            return None
        curve = _curve_of(inputs, inputs.recording, Section(need(inputs, WIDTH), need(inputs, THICKNESS)))
        course = curve.course
        if course is None:
            return None
        # a little slack before; beyond the break the travel is the frame's spring-back, no strain of the specimen
        shown = slice(max(0, course.zero.load_on - 5), curve.break_point.row + 1)
        marks: dict[str, tuple[float, ...]] = {
            "break": (course.strain_at_break, float(curve.stress[curve.break_point.row])),
            "peak": (course.strain_at_strength, float(curve.stress[curve.peak_row])),
            "modulus_range": course.modulus.range,
        }
        if course.yield_point is not None:
            marks["offset yield" if course.yield_point.offset else "yield"] = (course.yield_point.strain, course.yield_point.stress)
        source = "extensometer" if inputs.recording.get("strain") is not None else "from travel"
        return CurveView(course.strain[shown], curve.stress[shown], f"strain, {source}", "1", "stress", "MPa", marks)

    def label_for(self, orientation: str, protocol: Mapping[str, Any] | None = None) -> str:
        return "Layer adhesion" if orientation == Orientation.UPRIGHT else self.label


METHOD = _Tension(
    name="tension",
    label="Tension",
    after="ISO 527-1",
    procedure_version=PROCEDURE_VERSION,
    reduction_version=REDUCTION_VERSION,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=PULL_BARS,
    steps=(
        SectionStep("section", "dimensions", (WIDTH, THICKNESS, GAUGE_LENGTH)),
        PeakStep("peak", "load", (PEAK_FORCE,)),
        RecordingStep("recording", "recorded curve", optional=True, channels=("force", "travel", "strain", "time")),
    ),
    quantities=(
        QuantitySpec("strength", "strength", "MPa", GoodSide.HIGHER, plausible=(1.0, 400.0), of_polymer=STRENGTHS),
        QuantitySpec("stress_at_break", "stress at break", "MPa", GoodSide.NONE),
        QuantitySpec("modulus", "modulus", "MPa", GoodSide.HIGHER, plausible=(5.0, 60000.0), of_polymer=MODULI),
        QuantitySpec("apparent_modulus", "apparent modulus", "MPa", GoodSide.HIGHER, plausible=(5.0, 60000.0), of_polymer=MODULI),
        QuantitySpec("yield_strength", "yield strength", "MPa", GoodSide.HIGHER),
        QuantitySpec("offset_yield_strength", "0.2 % offset yield strength", "MPa", GoodSide.HIGHER),
        *(
            spec
            for source, words in ((_TRAVEL, "from travel"), (_EXTENSOMETER, "extensometer"))
            for spec in (
                QuantitySpec(f"{source}strain_at_yield", f"strain at yield, {words}", "1", GoodSide.NONE),
                QuantitySpec(f"{source}strain_at_offset_yield", f"strain at 0.2 % offset yield, {words}", "1", GoodSide.NONE),
                QuantitySpec(f"{source}strain_at_strength", f"strain at strength, {words}", "1", GoodSide.NONE),
                QuantitySpec(f"{source}strain_at_break", f"strain at break, {words}", "1", GoodSide.HIGHER),
                QuantitySpec(f"{source}energy_to_break", f"energy to break, {words}", "MJ/m³", GoodSide.HIGHER),
            )
        ),
        QuantitySpec("nominal_strain_at_yield", "nominal strain at yield", "1", GoodSide.NONE),
        QuantitySpec("nominal_strain_at_break", "nominal strain at break", "1", GoodSide.HIGHER),
        QuantitySpec("peak_force", "peak force", "N", GoodSide.NONE),
    ),
    main="strength",
    outcomes=(
        Outcome("gauge", "in the parallel part", orientations=(Orientation.FLAT, Orientation.ON_EDGE), zone="parallel"),
        Outcome("one layer", "across one layer plane", orientations=(Orientation.UPRIGHT,), zone="parallel"),
        Outcome("several layers", "over several layers", orientations=(Orientation.UPRIGHT,), zone="parallel"),
        Outcome("outside gauge", "at the shoulder", _LOWER, zone="shoulder"),
        Outcome("grip", "at the grip", _LOWER, zone="grip"),
    ),
    measures="The greatest stress a bar bears when it is pulled, and how stiff it is; upright, how well its layers hold together.",
    formulas=(
        "σ = F / (w · t)",
        "ε = (x − C·F) / L_eff,  L_eff = ∫ A₀/A dx",
        "ε_nominal = (x − C·F) / grip distance",
        "E = slope of σ on ε, 0.0005 ≤ ε ≤ 0.0025",
        "U = ∫ σ dε",
    ),
)


def _curve_of(inputs: Inputs, recording: Recording, section: Section) -> TensionCurve:
    chosen = inputs.options.modulus_range if isinstance(inputs.options, TensionOptions) else None
    return reduce_curve(recording, section, _scale_of(inputs), chosen, inputs.step("peak_force"))


def _scale_of(inputs: Inputs) -> TravelScale:
    """The effective length of the shape, unless one was entered by hand."""
    by_hand = need(inputs, GAUGE_LENGTH)
    bar = inputs.shape if isinstance(inputs.shape, PullBar) else None
    if not by_hand and bar is None:
        raise EntryError("the gauge length is needed where the shape does not tell it", "gauge_length")
    length = by_hand[-1] if by_hand else bar.effective_length if bar is not None else 0.0
    return TravelScale(length, None if bar is None else bar.grip_distance, inputs.compliance, inputs.compliance_uncertainty)


@dataclass(frozen=True, slots=True)
class TensionCurve:
    """A reduced curve, with all that is needed to draw and to defend it.

    `stress` in MPa, one value a row; `course` is that of the extensometer, or of the travel, or None without either.
    """

    stress: Floats
    break_point: BreakPoint
    peak_row: int
    course: Course | None
    reduction: Reduction


def reduce_peak(section: Section, peak_force: float, break_force: float | None = None) -> Reduction:
    """Strength from the peak force alone.

    Parameters
    ----------
    section : Section
    peak_force : float, N
    break_force : float, N, optional
        Force at the last moment before the break.

    Raises
    ------
    EntryError
        If a force is not greater than 0, or the break force exceeds the peak.

    Notes
    -----
    σ = F/A0 (ISO 527-1, 10.1).
    """
    if not (np.isfinite(peak_force) and peak_force > 0):
        raise EntryError(f"the peak force must be greater than 0 N, but got {peak_force:g}", "peak_force")
    results = [Result("strength", peak_force / section.area, "MPa")]
    if break_force is not None:
        if not 0 <= break_force <= peak_force:
            raise EntryError(f"the break force must lie between 0 and the peak force of {peak_force:g} N, but got {break_force:g}", "break_force")
        results.append(Result("stress_at_break", break_force / section.area, "MPa"))
    results.append(Result("peak_force", peak_force, "N"))
    return METHOD.made(results)


def reduce_curve(
    recording: Recording, section: Section, scale: TravelScale, modulus_range: tuple[float, float] | None = None, step: float = 0.0
) -> TensionCurve:
    """Reduce a recorded curve: tare, break, compliance, toe, then every quantity.

    Parameters
    ----------
    recording : Recording
    section : Section
    scale : TravelScale
        How travel becomes strain; an extensometer's strain is taken as it is.
    modulus_range : (low, high), optional
        Strains between which the user wants the modulus.
    step : float, N
        In which the rig shows the force.

    Raises
    ------
    EntryError
        If a dimension is not greater than 0 or the recording carries no load.
    """
    TensionOptions(modulus_range).check()

    warnings = list(recording.warnings)
    raw_force, flip = _positive_in_tension(recording.need("force"))
    if flip:
        warnings.append("the force is negative in tension: its sign was turned")
    travel, measured = recording.get("travel"), recording.get("strain")
    if travel is not None and _runs_backwards(travel, raw_force):
        travel = -travel
        warnings.append("the travel runs backwards: its sign was turned")
    crude = measured if measured is not None else (travel / scale.effective_length if travel is not None else None)

    found = find_break(raw_force, crude)
    warnings += found.warnings
    force, area = found.force, section.area
    peak_row = int(force[: found.row + 1].argmax())
    if force[peak_row] <= max(5 * found.noise, 0.0):
        raise EntryError("the recording carries no load: the force never rises above its noise", "curve")
    stress = force / area

    strains = {_TRAVEL: None if travel is None else scale.strain(travel, force), _EXTENSOMETER: measured}
    courses = {
        source: course_of(stress, strain, peak_row, found.row, found.noise / area, modulus_range) for source, strain in strains.items() if strain is not None
    }
    main = courses.get(_EXTENSOMETER, courses.get(_TRAVEL))
    if main is not None:
        warnings += main.zero.warnings
        warnings += sudden_drops(recording, force, main.zero.load_on, found.row, found.noise)
    else:
        warnings.append("no travel and no strain in the file: strength only")

    is_clipped = clipped(raw_force)
    warnings += _remarks_on_break(found, is_clipped)
    results: list[Result] = []
    curve = TensionCurve(stress, found, peak_row, main, METHOD.made(results, warnings))
    results += _results(curve, courses, scale, area, is_clipped, step)
    return curve


def _positive_in_tension(force: Floats) -> tuple[Floats, bool]:
    """Turn the sign where the greater excursion from the first row is downwards."""
    downwards = float(force[0] - force.min()) > float(force.max() - force[0])
    return (-force, True) if downwards else (force, False)


def _runs_backwards(travel: Floats, force: Floats) -> bool:
    return bool(travel[force.argmax()] < travel[0])


def _remarks_on_break(found: BreakPoint, is_clipped: bool) -> list[str]:
    remarks = []
    if not found.broken:
        remarks.append("not broken: strain and energy are at least what is given")
    elif found.torn:
        remarks.append("torn: the force sank without a sudden drop")
    if is_clipped:
        remarks.append("the force stands still at its top: the load cell seems to have been overloaded, the strength is at least what is given")
    return remarks


def _results(curve: TensionCurve, courses: Mapping[str, Course], scale: TravelScale, area: float, is_clipped: bool, step: float) -> list[Result]:
    found, peak_row = curve.break_point, curve.peak_row
    end = found.row
    # still rising when the recording ended: the strength was not reached either
    rising = not found.broken and curve.stress[peak_row] - curve.stress[end] <= 0.01 * curve.stress[peak_row]
    strength_bound = Bound.AT_LEAST if is_clipped or rising else Bound.EXACT
    end_bound = Bound.EXACT if found.broken else Bound.AT_LEAST
    doubt = ["the break is only proposed: check it on the curve"] if found.proposed else []

    results = [Result("strength", float(curve.stress[peak_row]), "MPa", strength_bound, reading_step=step / area)]
    if found.broken:
        results.append(Result("stress_at_break", float(curve.stress[end]), "MPa", warnings=doubt))
    for source, course in courses.items():
        modulus = course.modulus
        if modulus.value is not None:
            of_compliance = scale.warnings(modulus.value, area) if source == _TRAVEL else []
            results.append(Result("apparent_modulus" if source == _TRAVEL else "modulus", modulus.value, "MPa", warnings=[*modulus.warnings, *of_compliance]))
        results += _yield_results(curve, source, course, scale, is_clipped)
        results.append(Result(f"{source}strain_at_strength", course.strain_at_strength, "1", strength_bound))
        results.append(Result(f"{source}strain_at_break", course.strain_at_break, "1", end_bound, doubt))
        results.append(Result(f"{source}energy_to_break", course.energy, "MJ/m³", end_bound, doubt))
    if _TRAVEL in courses:
        nominal = scale.nominal(courses[_TRAVEL].strain_at_break)
        if nominal is not None:
            results.append(Result("nominal_strain_at_break", nominal, "1", end_bound, doubt))
    results.append(Result("peak_force", float(found.force[peak_row]), "N", strength_bound, reading_step=step))
    return results


def _yield_results(curve: TensionCurve, source: str, course: Course, scale: TravelScale, is_clipped: bool) -> list[Result]:
    """Yield with its strain, under the name of its kind; the stress from an extensometer's curve where there is one."""
    point = course.yield_point
    if point is None:
        return []
    bound = Bound.AT_LEAST if is_clipped and not point.offset else Bound.EXACT
    which = "offset_yield" if point.offset else "yield"
    results = [Result(f"{source}strain_at_{which}", point.strain, "1", bound)]
    if course is curve.course:
        warnings = ["with the apparent modulus, from crosshead travel"] if point.offset and source == _TRAVEL else []
        results.insert(0, Result(f"{which}_strength", point.stress, "MPa", bound, warnings))
    nominal = scale.nominal(point.strain) if source == _TRAVEL and not point.offset else None
    if nominal is not None:
        results.append(Result("nominal_strain_at_yield", nominal, "1", bound))
    return results
