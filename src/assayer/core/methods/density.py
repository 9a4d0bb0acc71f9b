"""Density by immersion (METHODS 11, after ISO 1183-1), and the share of voids."""

from __future__ import annotations

from assayer.core.errors import EntryError
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Field, WeighingStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.quantities.water import density_of_water
from assayer.core.shapes.bars import BAR, HARDNESS_BLOCK, IMMERSION_COUPON
from assayer.core.stats.verdicts import GoodSide, Margin

MASS_IN_AIR = Field("mass_in_air", "mass in air", "mass", channel="mass")
MASS_IN_LIQUID = Field("mass_in_liquid", "mass in the liquid", "mass", channel="mass", sign=Sign.EITHER)
WATER_TEMPERATURE = Field("water_temperature", "temperature of the water", "temperature", needed=0, channel="temperature", sign=Sign.EITHER)
LIQUID_DENSITY = Field("liquid_density", "density of another liquid", "density", needed=0, usual=0, from_rig="liquid_density")
SOLID_DENSITY = Field("solid_density", "density of the solid filament", "density", needed=0)

_USUAL = 20.0
"""°C; taken for water whose temperature nobody wrote down."""


class _Density(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        air, liquid = need(inputs, MASS_IN_AIR)[-1], need(inputs, MASS_IN_LIQUID)[-1]
        of_liquid, warnings = _of_liquid(inputs)
        if liquid >= air:
            raise EntryError(f"it cannot weigh more in the liquid ({liquid:g} g) than in air ({air:g} g)", "mass_in_liquid")
        if liquid < 0:
            warnings.append("lighter than the liquid: it was held down by a sinker whose weight was taken off")
        # ISO 1183-1, method A: ρ = m_air·ρ_liquid / (m_air − m_liquid)
        density = air * of_liquid / (air - liquid)
        results = [Result("density", density, "g/cm³")]
        solid = need(inputs, SOLID_DENSITY)
        if solid:
            # open pores fill with the liquid, so there may be more voids than are seen
            results.append(Result("void_share", 1 - density / solid[-1], "1", Bound.AT_LEAST))
            if density > solid[-1] * 1.005:
                warnings.append(f"denser than the solid filament ({solid[-1]:g} g/cm³): a bubble in air, a wet specimen, or the filament's density is wrong")
        return self.made(results, warnings)


def _of_liquid(inputs: Inputs) -> tuple[float, list[str]]:
    """The density of the liquid in g/cm³ (of water where nobody says otherwise), and what is to be remarked of it."""
    temperatures, typed = need(inputs, WATER_TEMPERATURE), inputs.values(LIQUID_DENSITY.name)
    if typed and temperatures:
        raise EntryError("give either the temperature of the water or the density of another liquid", WATER_TEMPERATURE.name)
    if temperatures:
        # what was read of this water goes before what the rig says of its bath
        return density_of_water(temperatures[-1]), []
    told = need(inputs, LIQUID_DENSITY)
    if told:
        return told[-1], []
    return density_of_water(_USUAL), [f"the temperature of the water is not recorded: taken as {_USUAL:g} °C, and 5 °C more would make it 0.1 % less dense"]


METHOD = _Density(
    name="immersion-density",
    label="Density",
    after="ISO 1183-1",
    procedure_version="immersion-density-1",
    reduction_version=2,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(BAR, IMMERSION_COUPON, HARDNESS_BLOCK),
    steps=(WeighingStep("weighing", "weighed in air, then in the liquid", (MASS_IN_AIR, MASS_IN_LIQUID, SOLID_DENSITY, WATER_TEMPERATURE, LIQUID_DENSITY)),),
    quantities=(
        QuantitySpec("density", "density", "g/cm³", GoodSide.NONE, plausible=(0.2, 3.0), margin=Margin(0.02)),
        QuantitySpec("void_share", "share of voids", "1", GoodSide.LOWER, ratio_scale=False, plausible=(-0.05, 0.9), margin=Margin(0.01, relative=False)),
    ),
    main="density",
    typical_cv=0.01,
    minutes=3.0,
    outcomes=(Outcome("sank", "sank, free of bubbles"), Outcome("sinker", "floated, held down by a sinker"), Outcome("bubbles", "bubbles stayed on it")),
    measures="The density of a print, weighed in air and in a liquid, and how much of it is voids.",
    formulas=("ρ = m_air · ρ_liquid / (m_air − m_liquid),  ρ of water from its temperature", "voids = 1 − ρ / ρ_solid  (at least)"),
)
