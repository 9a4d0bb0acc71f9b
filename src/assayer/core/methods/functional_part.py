"""A part in use (METHODS 11): what it bears, how far it gives, what comes back; per gram and per hour of printing."""

from __future__ import annotations

from types import MappingProxyType

from assayer.core.errors import EntryError
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Field, PlainStep, UseStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.shapes.frames import BRACKET
from assayer.core.stats.verdicts import GoodSide, Margin

HOUR = 3600.0

PEAK_FORCE = Field("peak_force", "greatest load", "force", channel="force")
LOAD = Field("load", "at a load of", "force", needed=0, channel="force")
DEFLECTION = Field("deflection", "it gave way by", "length", needed=0, channel="length")
RESIDUAL = Field("residual", "and kept, unloaded", "length", needed=0, channel="length", sign=Sign.ZERO_ALLOWED)
MASS = Field("mass", "mass of the part", "mass", needed=0, channel="mass")
PRINT_TIME = Field("print_time", "time to print it", "time", needed=0, from_print="print_time")

_LOADS = MappingProxyType({"peak_force": Bound.AT_LEAST, "load_per_mass": Bound.AT_LEAST, "load_per_hour": Bound.AT_LEAST})


class _FunctionalPart(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        force = need(inputs, PEAK_FORCE)[-1]
        loads, deflections, residuals = need(inputs, LOAD), need(inputs, DEFLECTION), need(inputs, RESIDUAL)
        masses, times = need(inputs, MASS), need(inputs, PRINT_TIME)
        results = [Result("peak_force", force, "N")]
        if masses:
            results.append(Result("mass", masses[-1], "g"))
            results.append(Result("load_per_mass", force / masses[-1], "N/g"))
        if times:
            hours = times[-1] / HOUR
            results.append(Result("load_per_hour", force / hours, "N/h"))
        if bool(loads) != bool(deflections):
            missing = LOAD if deflections else DEFLECTION
            raise EntryError("a deflection belongs to the load at which it was read: give both", missing.name)
        if loads:
            stiffness = _stiffness(loads[-1], deflections[-1], force)
            results.append(Result("stiffness", stiffness, "N/mm"))
            if masses:
                results.append(Result("stiffness_per_mass", stiffness / masses[-1], "N/(mm·g)"))
        if residuals:
            if deflections and residuals[-1] > deflections[-1]:
                raise EntryError(f"it cannot keep more ({residuals[-1]:g} mm) than it gave way by ({deflections[-1]:g} mm)", "residual")
            results.append(Result("residual_deflection", residuals[-1], "mm"))
        return self.made(results, [])


def _stiffness(load: float, deflection: float, peak: float) -> float:
    """N/mm: over the whole of the fixture, so between parts on the same one."""
    if load > peak:
        raise EntryError(f"the load of the deflection ({load:g} N) is above the greatest load ({peak:g} N)", "load")
    return load / deflection


METHOD = _FunctionalPart(
    name="functional-part",
    label="Part in use",
    after="own method",
    procedure_version="functional-part-1",
    reduction_version=2,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(BRACKET,),
    own_parts=True,
    steps=(
        UseStep("load", "loaded as in use", (PEAK_FORCE, LOAD, DEFLECTION, RESIDUAL)),
        PlainStep("print", "what it took", (MASS, PRINT_TIME), optional=True),
    ),
    quantities=(
        QuantitySpec("peak_force", "load carried", "N", GoodSide.HIGHER),
        QuantitySpec("load_per_mass", "load per gram", "N/g", GoodSide.HIGHER),
        QuantitySpec("load_per_hour", "load per hour of printing", "N/h", GoodSide.HIGHER),
        QuantitySpec("stiffness", "stiffness of the part", "N/mm", GoodSide.HIGHER),
        QuantitySpec("stiffness_per_mass", "stiffness per gram", "N/(mm·g)", GoodSide.HIGHER),
        QuantitySpec("mass", "mass of the part", "g", GoodSide.LOWER, of_piece=True),
        QuantitySpec("residual_deflection", "deflection that stayed", "mm", GoodSide.LOWER, margin=Margin(0.2, relative=False)),
    ),
    main="peak_force",
    typical_cv=0.10,
    minutes=4.0,
    outcomes=(
        Outcome("broke", "broke in use"),
        Outcome("released", "let go at that load, unbroken"),
        Outcome("gave way", "bent away without breaking", _LOADS),
        Outcome("held", "held what there was of load", _LOADS),
        Outcome("fixture", "the fixture gave way first", _LOADS),
    ),
    measures="What a part bears in the place where it is used, and what that costs in filament and time.",
    formulas=("F_m = F / m", "F_t = F / t", "k = F(d) / d"),
)
