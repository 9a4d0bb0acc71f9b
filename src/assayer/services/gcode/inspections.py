"""A G-code file inspected: from the file to the view, and a view held against a sheet."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from assayer.core.gcode.inspection import BLOCK, Inspection, Machine, Progress, inspect
from assayer.core.gcode.judging import caps, wall_scatter
from assayer.core.gcode.layers import Layer, Spread
from assayer.services.gcode.views import CapView, InspectionView, LayerColumns, RemarkView, SpreadView, TemperaturesView


def blocks_of(path: Path) -> Iterator[bytes]:
    """A file in pieces."""
    with path.open("rb") as file:
        while block := file.read(BLOCK):
            yield block


def inspect_file(path: Path, machine: Machine | None = None, progress: Progress | None = None) -> InspectionView:
    """Inspect a file on disk.

    Raises
    ------
    FileError
        If it is no G-code, or lays nothing.
    """
    return inspection_view(inspect(blocks_of(path), machine, progress))


def inspection_view(found: Inspection) -> InspectionView:
    layers = found.layers
    return InspectionView(
        layers=len(layers),
        height_mm=round(layers[-1].z, 4),
        lines=found.lines,
        size=found.size,
        time_s=round(found.seconds, 2),
        preparing_s=round(found.preparing, 2),
        first_layer_s=round(found.first_layer, 2),
        rest_s=round(found.seconds - found.preparing - found.first_layer, 2),
        filament_mm=round(sum(found.filament.values()), 3),
        filament_by_tool={str(tool): round(mm, 3) for tool, mm in sorted(found.filament.items())},
        volume_mm3=round(found.volume, 3),
        speed=_spread(found.over_layers("speed")),
        flow=_spread(found.over_layers("flow")),
        outer_contour=_spread(found.over_layers("contour_speed", "contour_seconds")),
        jumping_share=round(found.jumping, 5),
        travel_mm=round(found.travel, 2),
        crossing_mm=round(found.crossing, 2),
        temperatures=TemperaturesView(**{name: _temperatures(layers, name) for name in ("nozzle", "bed", "chamber")}),
        wall_scatter=wall_scatter(found),
        caps=[CapView.model_validate(c) for c in caps(found)],
        remarks=[RemarkView.model_validate(r) for r in found.remarks],
        remark_count=found.remark_count,
        unknown=found.unknown,
        sets=found.sets,
        by_layer=_columns(layers),
    )


def _spread(spread: Spread | None) -> SpreadView | None:
    if spread is None:
        return None
    return SpreadView(low=round(spread.low, 4), mean=round(spread.mean, 4), high=round(spread.high, 4), scatter=round(spread.scatter, 4))


def _temperatures(layers: Sequence[Layer], name: str) -> list[float]:
    """Those that layers were laid at, in order of first use."""
    return list(dict.fromkeys(value for layer in layers if (value := getattr(layer, name)) is not None))


def _columns(layers: Sequence[Layer]) -> LayerColumns:
    def part(name: str, which: str) -> list[float | None]:
        spreads = [getattr(layer, name) for layer in layers]
        return [None if s is None else round(getattr(s, which), 3) for s in spreads]

    return LayerColumns(
        z=[round(layer.z, 4) for layer in layers],
        seconds=[round(layer.seconds, 3) for layer in layers],
        filament=[round(layer.filament, 3) for layer in layers],
        fan=[round(layer.fan, 4) for layer in layers],
        nozzle=[layer.nozzle for layer in layers],
        bed=[layer.bed for layer in layers],
        chamber=[layer.chamber for layer in layers],
        speed_low=part("speed", "low"),
        speed_mean=part("speed", "mean"),
        speed_high=part("speed", "high"),
        flow_low=part("flow", "low"),
        flow_mean=part("flow", "mean"),
        flow_high=part("flow", "high"),
        contour_low=part("contour_speed", "low"),
        contour_mean=part("contour_speed", "mean"),
        contour_high=part("contour_speed", "high"),
        travel=[round(layer.travel, 2) for layer in layers],
        crossing=[round(layer.crossing, 2) for layer in layers],
    )
