"""Three-point bending (METHODS 5, after ISO 178 and ASTM D790): one load and its deflection, or a recorded curve."""

from __future__ import annotations

from types import MappingProxyType

import numpy as np

from assayer.core.curves.breaking import find_break
from assayer.core.curves.loading import find_strain_zero
from assayer.core.curves.maximum import strain_at_maximum
from assayer.core.curves.recording import Floats, Recording
from assayer.core.curves.stiffness import Modulus, find_modulus
from assayer.core.curves.travel import compliance_warnings
from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.sections import Section
from assayer.core.methods.spans import SPAN, deflected_far, flexural_strain, flexural_stress, odd_span
from assayer.core.methods.steps import Field, RecordingStep, SectionStep, UseStep
from assayer.core.methods.vocabulary import Bound, Orientation
from assayer.core.shapes.bars import BAR
from assayer.core.stats.verdicts import GoodSide

CONVENTIONAL = 0.035
"""ISO 178: the strain at which the stress of what does not break before is given."""

WIDTH = Field("width", "width", "length", usual=3, channel="length", nominal="width")
THICKNESS = Field("thickness", "thickness", "length", usual=3, channel="length", nominal="thickness")
PEAK_FORCE = Field("peak_force", "greatest load of the test", "force", needed=0, channel="force")
LOAD = Field("load", "a load on the way", "force", needed=0, channel="force")
DEFLECTION = Field("deflection", "deflection under it", "length", needed=0, channel="deflection")

_PASSED = 0.01
"""Share of the strength by which the force must have sunk before its maximum counts as passed."""
_LOWER = MappingProxyType(dict.fromkeys(("flexural_strength", "strain_at_flexural_strength"), Bound.AT_LEAST))


class _Bending(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        section = Section(need(inputs, WIDTH), need(inputs, THICKNESS))
        span = need(inputs, SPAN)[-1]
        warnings = odd_span(span, section.thickness)
        if inputs.recording is not None:
            return self._from_curve(inputs, inputs.recording, section, span, warnings)
        loads, deflections, peaks = need(inputs, LOAD), need(inputs, DEFLECTION), need(inputs, PEAK_FORCE)
        if not loads and not peaks:
            raise EntryError("enter the greatest load of the test, or a load and its deflection, or drop the recorded curve", "peak_force")
        if loads and peaks and loads[-1] > peaks[-1]:
            raise EntryError(f"a load of {loads[-1]:g} N is above the greatest of the test ({peaks[-1]:g} N)", "load")
        per_load = flexural_stress(1.0, section, span)
        results = [Result("flexural_strength", peaks[-1] * per_load, "MPa")] if peaks else []
        if loads:
            results.append(Result("flexural_stress", loads[-1] * per_load, "MPa"))
            if not peaks:
                warnings.append("one load gives a stress, not a strength: enter the greatest load of the test for that")
        if deflections:
            results.append(Result("flexural_strain", flexural_strain(deflections[-1], section, span), "1"))
            warnings += deflected_far(deflections[-1], span)
        return self.made(results, warnings)

    def _from_curve(self, inputs: Inputs, recording: Recording, section: Section, span: float, warnings: list[str]) -> Reduction:
        stress, strain, on, end, broken, noise, modulus, notes = _bent(recording, section, span, inputs.compliance or 0.0)
        warnings = [*recording.warnings, *warnings, *notes]
        peak = on + int(np.argmax(stress[on : end + 1]))
        rising = not broken and stress[peak] - stress[end] <= _PASSED * stress[peak]
        loaded = slice(on, end + 1)
        at_strength = strain_at_maximum(stress[loaded], strain[loaded], noise)
        results = [Result("flexural_strength", float(stress[peak]), "MPa", Bound.AT_LEAST if rising else Bound.EXACT)]
        if modulus.value is not None:
            # E = L³/(4bh³) · F/s, from travel: the give of the machine is in s
            geometry = 4 * section.width * section.thickness**3 / span**3
            of_compliance = compliance_warnings(modulus.value, geometry, inputs.compliance, inputs.compliance_uncertainty)
            results.append(Result("flexural_modulus", modulus.value, "MPa", warnings=[*modulus.warnings, *of_compliance]))
        else:
            warnings += modulus.warnings
        if strain[end] >= CONVENTIONAL:
            course = np.maximum.accumulate(strain[on : end + 1])
            results.append(Result("stress_at_3_5", float(np.interp(CONVENTIONAL, course, stress[on : end + 1])), "MPa"))
        else:
            warnings.append("a strain of 3.5 % was not reached")
        results.append(Result("strain_at_flexural_strength", at_strength, "1", Bound.AT_LEAST if rising else Bound.EXACT))
        warnings += deflected_far(at_strength * span**2 / (6 * section.thickness), span)
        return self.made(results, warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        if inputs.recording is None:
            return None
        section = Section(need(inputs, WIDTH), need(inputs, THICKNESS))
        stress, strain, on, end, _, _, modulus, _ = _bent(inputs.recording, section, need(inputs, SPAN)[-1], inputs.compliance or 0.0)
        shown = slice(max(0, on - 5), end + 1)
        peak = on + int(np.argmax(stress[on : end + 1]))
        marks: dict[str, tuple[float, ...]] = {"peak": (float(strain[peak]), float(stress[peak])), "break": (float(strain[end]), float(stress[end]))}
        if modulus.value is not None:
            marks["modulus_range"] = modulus.range
        return CurveView(strain[shown], stress[shown], "strain", "1", "stress", "MPa", marks)


def _bent(recording: Recording, section: Section, span: float, compliance: float) -> tuple[Floats, Floats, int, int, bool, float, Modulus, list[str]]:
    """A recorded bend, zeroed: stress, strain, row of load-on, last row, whether it broke there, noise of the stress, the modulus, remarks.

    The order is that of tension: tare, break, compliance, toe (METHODS 1).
    """
    raw, travel = recording.need("force"), recording.need("travel")
    notes = []
    if float(raw[0] - raw.min()) > float(raw.max() - raw[0]):
        raw = -raw
        notes.append("the force is negative in bending: its sign was turned")
    if travel[int(np.argmax(raw))] < travel[0]:
        travel = -travel
        notes.append("the travel runs backwards: its sign was turned")
    found = find_break(raw, flexural_strain(1.0, section, span) * travel)
    notes += found.warnings
    force = found.force
    peak = int(np.argmax(force[: found.row + 1]))
    if force[peak] <= max(5 * found.noise, 0.0):
        raise EntryError("the recording carries no load: the force never rises above its noise", "curve")
    per_load = flexural_stress(1.0, section, span)
    stress, strain = force * per_load, flexural_strain(1.0, section, span) * (travel - compliance * force)
    zero = find_strain_zero(stress, strain, peak, found.noise * per_load)
    strain = strain - zero.offset
    notes += zero.warnings
    if not found.broken:
        notes.append("not broken: bent as far as the recording goes")
    modulus = find_modulus(stress, strain, zero.load_on, found.row, zero.toe)
    return stress, strain, zero.load_on, found.row, found.broken, found.noise * per_load, modulus, notes


METHOD = _Bending(
    name="bending",
    label="Bending",
    after="ISO 178",
    procedure_version="bending-1",
    reduction_version=3,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(BAR,),
    steps=(
        SectionStep("section", "dimensions", (WIDTH, THICKNESS, SPAN)),
        UseStep("load", "load in the middle", (PEAK_FORCE, LOAD, DEFLECTION)),
        RecordingStep("recording", "recorded curve", optional=True, channels=("force", "travel", "time")),
    ),
    quantities=(
        QuantitySpec("flexural_stress", "flexural stress at a load", "MPa", GoodSide.HIGHER, plausible=(0.2, 600.0)),
        QuantitySpec("flexural_strength", "flexural strength", "MPa", GoodSide.HIGHER, plausible=(1.0, 600.0)),
        QuantitySpec("flexural_modulus", "flexural modulus", "MPa", GoodSide.HIGHER, plausible=(5.0, 60000.0)),
        QuantitySpec("stress_at_3_5", "stress at 3.5 % strain", "MPa", GoodSide.HIGHER),
        QuantitySpec("flexural_strain", "flexural strain at a load", "1", GoodSide.NONE, plausible=(0.0001, 0.5)),
        QuantitySpec("strain_at_flexural_strength", "flexural strain at strength", "1", GoodSide.NONE, plausible=(0.0001, 0.5)),
    ),
    main="flexural_strength",
    typical_cv=0.06,
    minutes=4.0,
    outcomes=(
        Outcome("broke", "broke in the middle", place=(0.36, 0.5)),
        Outcome("bent", "bent on without breaking"),
        Outcome("slid", "slid off the supports", _LOWER),
    ),
    measures="What a bar on two supports bears in its middle, and how stiff it is.",
    formulas=("σ = 3 · F · L / (2 · b · h²)", "ε = 6 · s · h / L²", "E = slope of σ on ε, 0.0005 ≤ ε ≤ 0.0025"),
)
