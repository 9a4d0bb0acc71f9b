"""An inspection that was kept, as the rules see it again."""

from __future__ import annotations

from assayer.core.gcode.inspection import Inspection
from assayer.core.gcode.layers import Layer, Spread
from assayer.services.gcode.views import InspectionView


def as_inspection(found: InspectionView) -> Inspection:
    """The layers of a kept inspection; what it said beside them is not needed to judge it."""
    c = found.by_layer
    layers = [
        Layer(
            z=c.z[i],
            first_line=0,
            seconds=c.seconds[i],
            laying_seconds=c.seconds[i],
            filament=c.filament[i],
            speed=_spread(c.speed_low[i], c.speed_mean[i], c.speed_high[i]),
            flow=_spread(c.flow_low[i], c.flow_mean[i], c.flow_high[i]),
            contour_speed=_spread(c.contour_low[i], c.contour_mean[i], c.contour_high[i]),
            fan=c.fan[i],
            nozzle=c.nozzle[i],
            bed=c.bed[i],
            chamber=c.chamber[i],
        )
        for i in range(len(c.z))
    ]
    return Inspection(layers, found.preparing_s, {}, 1.0, found.lines, found.size, sets=found.sets)


def _spread(low: float | None, mean: float | None, high: float | None) -> Spread | None:
    return None if low is None or mean is None or high is None else Spread(low, mean, high, 0.0)
