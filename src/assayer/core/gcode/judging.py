"""A file against its settings sheet, and what would even out its outer wall."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from assayer.core.gcode.inspection import Inspection
from assayer.core.gcode.layers import Layer
from assayer.core.settings.series import Series
from assayer.core.settings.sheet import Sheet

FLOW_ROOM = 1.02
"""A flow is above its limit from 2 % over it: corners are reckoned, not measured."""

UNEVEN = 0.1
"""An outer wall is uneven where its layers' speeds scatter by more than this share."""

_NEAR = 0.5
"""°C, or per cent of fan: what differs by less is the same."""


@dataclass(frozen=True, slots=True)
class Finding:
    """Something about a file: which setting it is about, and the layers it is seen in, as ranges counted from 1."""

    about: str
    text: str
    layers: list[tuple[int, int]]


@dataclass(frozen=True, slots=True)
class Cap:
    """A limit that would even the outer wall: `speed` of the wall, mm/s, or `flow`, mm³/s, and what it costs, s."""

    about: str
    value: float
    unit: str
    costs: float
    text: str


@dataclass(frozen=True, slots=True)
class LayerDifference:
    """One height in two files; None where one has no layer there."""

    z: float
    seconds: tuple[float | None, float | None]
    speed: tuple[float | None, float | None]


def against_sheet(inspection: Inspection, sheet: Sheet) -> list[Finding]:
    """In what a file differs from the sheet it is said to be made by."""
    layers = inspection.layers
    findings = []
    limit = sheet.number("flow_limit")
    if limit is not None:
        above = [i for i, layer in enumerate(layers, 1) if layer.flow is not None and layer.flow.high > limit * FLOW_ROOM]
        if above:
            most = max(layers[i - 1].flow.high for i in above)  # type: ignore[union-attr]
            findings.append(Finding("flow_limit", f"up to {most:.1f} mm³/s is laid, and the sheet's limit is {limit:g} mm³/s", ranges(above)))
    for heated in ("nozzle", "bed", "chamber"):
        findings += _heat(layers, sheet, heated)
    findings += _fan(layers, sheet)
    findings += _height(layers, sheet)
    findings += _speed(layers, sheet)
    findings += _first_layer_speed(layers, sheet)
    findings += _layer_time(layers, sheet)
    return findings


def against_series(inspection: Inspection, series: Series) -> list[Finding]:
    """Whether a file that was made for a tower is stepped as the tower is planned."""
    label, unit = series.spec.label, series.spec.unit
    first = f"{series.values[0]:g} to {series.values[-1]:g} {unit}"
    column = {"nozzle_temperature": "nozzle", "bed_temperature": "bed", "fan": "fan"}.get(series.setting)
    if column is None:
        times = inspection.sets.get(series.setting, series.count)
        if times < series.count:
            return [Finding("series", f"the file is not stepped: it sets {label} {times} times, and the tower has {series.count} bands", [])]
        return []
    other = []
    for i, layer in enumerate(inspection.layers, 1):
        # the middle of the layer, so that its band is certain
        middle = (layer.z + (inspection.layers[i - 2].z if i > 1 else 0.0)) / 2
        band = min(max(int((middle - series.base_height) // series.band_height), 0), series.count - 1)
        said: float | None = getattr(layer, column)
        value = said if said is None or column != "fan" else 100 * said
        if value is None or abs(value - series.values[band]) > 2 * _NEAR:
            other.append(i)
    if len(other) <= series.count:
        return []
    return [Finding("series", f"the file is not stepped as the tower is planned ({label} {first})", ranges(other))]


def ranges(numbers: Sequence[int]) -> list[tuple[int, int]]:
    """Numbers in order as ranges without gaps."""
    found: list[tuple[int, int]] = []
    for n in numbers:
        if found and n == found[-1][1] + 1:
            found[-1] = (found[-1][0], n)
        else:
            found.append((n, n))
    return found


def _heat(layers: Sequence[Layer], sheet: Sheet, heated: str) -> list[Finding]:
    name = f"{heated}_temperature"
    own = sheet.values.get(name)
    start, first = sheet.number(name), sheet.number(f"{name}_first")
    if start is None or own is None:
        return []
    other: list[tuple[int, float, float]] = []
    for i, layer in enumerate(layers, 1):
        said: float | None = getattr(layer, heated)
        wanted = first if i == 1 and first is not None else own.schedule.at(start, i) if own.schedule is not None else start
        if said is not None and abs(said - wanted) > _NEAR:
            other.append((i, said, wanted))
    if not other:
        return []
    said_all = sorted({said for _, said, _ in other})
    shown = f"{said_all[0]:g}" if len(said_all) == 1 else f"{said_all[0]:g} to {said_all[-1]:g}"
    wants = sorted({wanted for _, _, wanted in other})
    wanted_words = f"{wants[0]:g}" if len(wants) == 1 else f"{wants[0]:g} to {wants[-1]:g}"
    return [Finding(name, f"the file sets the {heated} to {shown} °C, the sheet to {wanted_words} °C", ranges([i for i, _, _ in other]))]


def _fan(layers: Sequence[Layer], sheet: Sheet) -> list[Finding]:
    wanted, first = sheet.number("fan"), sheet.number("fan_first")
    if wanted is None:
        return []
    most = max(wanted, sheet.number("fan_bridge") or 0, sheet.number("fan_overhang") or 0)
    over = [i for i, layer in enumerate(layers, 1) if layer.fan * 100 > (first if i == 1 and first is not None else most) + 1.0]
    if not over:
        return []
    highest = max(layers[i - 1].fan for i in over) * 100
    return [Finding("fan", f"the fan runs at up to {highest:.0f} %, and the sheet has {wanted:g} %", ranges(over))]


def _height(layers: Sequence[Layer], sheet: Sheet) -> list[Finding]:
    wanted = sheet.number("layer_height")
    if wanted is None or len(layers) < 3:
        return []
    heights = [b.z - a.z for a, b in pairwise(layers)]
    other = [i for i, h in enumerate(heights, 2) if abs(h - wanted) > 0.01]
    if not other:
        return []
    shown = sorted({round(heights[i - 2], 3) for i in other})
    words = f"{shown[0]:g}" if len(shown) == 1 else f"{shown[0]:g} to {shown[-1]:g}"
    return [Finding("layer_height", f"layers are {words} mm high, and the sheet has {wanted:g} mm", ranges(other))]


def _speed(layers: Sequence[Layer], sheet: Sheet) -> list[Finding]:
    wanted = sheet.number("speed_outer")
    if wanted is None:
        return []
    slow = [i for i, layer in enumerate(layers, 1) if i > 1 and layer.contour_speed is not None and layer.contour_speed.mean < wanted * (1 - 2 * UNEVEN)]
    fast = [i for i, layer in enumerate(layers, 1) if i > 1 and layer.contour_speed is not None and layer.contour_speed.high > wanted * 1.05]
    told = []
    if slow:
        least = min(layers[i - 1].contour_speed.mean for i in slow)  # type: ignore[union-attr]
        told.append(Finding("speed_outer", f"the outer contour is laid at {least:.0f} mm/s on average, and the sheet has {wanted:g} mm/s", ranges(slow)))
    if fast:
        most = max(layers[i - 1].contour_speed.high for i in fast)  # type: ignore[union-attr]
        told.append(Finding("speed_outer", f"the outer contour is laid at up to {most:.0f} mm/s, and the sheet has {wanted:g} mm/s", ranges(fast)))
    return told


def _first_layer_speed(layers: Sequence[Layer], sheet: Sheet) -> list[Finding]:
    planned = sheet.number("speed_first")
    speed = layers[0].speed if layers else None
    if planned is None or speed is None:
        return []
    if speed.high > planned * 1.05:
        return [Finding("speed_first", f"the first layer is laid at up to {speed.high:.0f} mm/s, and the sheet has {planned:g} mm/s", [(1, 1)])]
    if speed.high < planned * (1 - 2 * UNEVEN):
        return [Finding("speed_first", f"the first layer is laid at {speed.high:.0f} mm/s at most, and the sheet has {planned:g} mm/s", [(1, 1)])]
    return []


def _layer_time(layers: Sequence[Layer], sheet: Sheet) -> list[Finding]:
    required = sheet.number("least_layer_time")
    if not required:
        return []
    short = [i for i, layer in enumerate(layers, 1) if layer.seconds < required * (1 - UNEVEN)]
    if not short:
        return []
    least = min(layers[i - 1].seconds for i in short)
    return [Finding("least_layer_time", f"a layer takes as little as {least:.1f} s, and the sheet has at least {required:g} s", ranges(short))]


def wall_scatter(found: Inspection) -> float | None:
    """Scatter of the layers' mean speeds of the outer contour over their mean, the first layer left out."""
    told = [(layer.contour_speed.mean, layer.contour_seconds) for layer in found.layers[1:] if layer.contour_speed is not None]
    total = sum(t for _, t in told)
    if total <= 0:
        return None
    mean = sum(v * t for v, t in told) / total
    return float((sum((v - mean) ** 2 * t for v, t in told) / total) ** 0.5) / mean


def caps(found: Inspection) -> list[Cap]:
    """Limits that would even an uneven outer wall: the speed, or the flow, of its slowest layer held everywhere."""
    scatter = wall_scatter(found)
    rest = [layer for layer in found.layers[1:] if layer.contour_speed is not None]
    if scatter is None or scatter <= UNEVEN:
        return []
    speeds = sorted(layer.contour_speed.mean for layer in rest)  # type: ignore[union-attr]
    # a twentieth of the layers may be slower still: a tip of two lines does not set the pace of a whole print
    slow = speeds[len(speeds) // 20]
    wall_costs = sum(max(layer.contour / slow - layer.contour_seconds, 0.0) for layer in rest)
    told = [Cap("speed_outer", slow, "mm/s", wall_costs, f"an outer wall at {slow:.0f} mm/s is laid alike in all layers; it costs {_span(wall_costs)}")]
    volume, laid = (sum(values) for values in zip(*((layer.filament * found.section, layer.laid) for layer in rest), strict=True))
    if laid > 0 and volume > 0:
        # the flow of the wall at that speed, held by every bead: what is laid faster inside slows down as well
        flow = slow * volume / laid
        costs = sum(max(layer.filament * found.section / flow - layer.laying_seconds, 0.0) for layer in rest)
        told.append(Cap("flow_limit", flow, "mm³/s", costs, f"a flow of at most {flow:.1f} mm³/s evens all beads; it costs {_span(costs)}"))
    return told


def compare(a: Inspection, b: Inspection) -> list[LayerDifference]:
    """Two files height by height."""
    rows: dict[float, list[Layer | None]] = {}
    for side, found in enumerate((a, b)):
        for layer in found.layers:
            rows.setdefault(round(layer.z, 2), [None, None])[side] = layer
    told = []
    for z in sorted(rows):
        one, two = rows[z]
        told.append(
            LayerDifference(
                z,
                (one.seconds if one else None, two.seconds if two else None),
                (_mean(one), _mean(two)),
            )
        )
    return told


def _mean(layer: Layer | None) -> float | None:
    return layer.speed.mean if layer is not None and layer.speed is not None else None


def _span(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 90 else f"{seconds / 60:.0f} min"
