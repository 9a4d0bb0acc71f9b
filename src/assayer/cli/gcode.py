"""G-code on the command line: inspected, and stepped by height."""

from __future__ import annotations

import os
from contextlib import suppress
from pathlib import Path
from typing import Annotated

import typer

from assayer.cli.common import JsonOption, app
from assayer.core.errors import EntryError
from assayer.core.quantities.words import counted

gcode = typer.Typer(no_args_is_help=True, help="Inspect a G-code file, or step a setting through it.")
app.add_typer(gcode, name="gcode")

FileArgument = Annotated[Path, typer.Argument(help="A G-code file.")]


def _existing(file: Path) -> Path:
    if not file.is_file():
        raise EntryError(f"there is no file '{file}'", "file")
    return file


@gcode.command("inspect")
def inspect_command(
    file: FileArgument,
    as_json: JsonOption = False,
    acceleration: Annotated[float, typer.Option(min=1, help="mm/s², until the file names it.")] = 1000.0,
    corner: Annotated[float, typer.Option(min=0.1, help="mm/s at a right-angled corner.")] = 5.0,
    strand: Annotated[float, typer.Option(min=0.1, help="Diameter of the filament, mm.")] = 1.75,
    progress: Annotated[bool, typer.Option("--progress", help="Tell on stderr how many bytes were read.")] = False,
) -> None:
    """Layers, time, filament, speeds, flow and temperatures of a file."""
    from assayer.core.gcode.inspection import Machine
    from assayer.services.gcode.inspections import inspect_file

    def told(read: int) -> None:
        typer.echo(str(read), err=True)

    found = inspect_file(_existing(file), Machine(acceleration, corner, strand), told if progress else None)
    if as_json:
        typer.echo(found.model_dump_json())
        return
    typer.echo(f"{counted(found.layers, 'layer')}, {found.height_mm:g} mm high, {counted(found.lines, 'line')}")
    typer.echo(f"time        {_span(found.time_s)} ({_span(found.preparing_s)} before the first bead, {_span(found.first_layer_s)} first layer)")
    typer.echo(f"filament    {found.filament_mm / 1000:.3f} m, {found.volume_mm3 / 1000:.3f} cm³")
    for label, spread, unit in (("speed", found.speed, "mm/s"), ("outer wall", found.outer_contour, "mm/s"), ("flow", found.flow, "mm³/s")):
        if spread is not None:
            typer.echo(f"{label:11} {spread.low:.1f} to {spread.high:.1f} {unit}, mean {spread.mean:.1f} (scatter {spread.scatter / spread.mean:.0%})")
    heats = found.temperatures
    for label, values in (("nozzle", heats.nozzle), ("bed", heats.bed), ("chamber", heats.chamber)):
        if values:
            typer.echo(f"{label:11} {', '.join(f'{v:g}' for v in values)} °C")
    typer.echo(f"travel      {found.travel_mm / 1000:.2f} m, of which {found.crossing_mm / 1000:.2f} m crosses the outer contour")
    for cap in found.caps:
        typer.echo(f"note: {cap.text}")
    for remark in found.remarks:
        typer.echo(f"line {remark.line}: {remark.text}")
    if found.remark_count > len(found.remarks):
        typer.echo(f"… and {found.remark_count - len(found.remarks)} more lines")
    if found.unknown:
        typer.echo("kept without acting on them: " + ", ".join(f"{name} ({n}×)" for name, n in sorted(found.unknown.items())))


@gcode.command("step")
def step_command(
    file: FileArgument,
    setting: Annotated[str, typer.Option(help="nozzle_temperature, bed_temperature, fan, speed, flow or retraction.")],
    start: Annotated[float, typer.Option(help="Value of the lowest band.")],
    step: Annotated[float, typer.Option(help="From one band to the next.")],
    band_height: Annotated[float, typer.Option(help="Height of a band, mm.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="File to write.")],
    count: Annotated[int | None, typer.Option(help="Number of bands.")] = None,
    end: Annotated[float | None, typer.Option(help="Value of the last band, instead of their number.")] = None,
    base_height: Annotated[float, typer.Option(help="Height below the first band, mm.")] = 0.0,
) -> None:
    """Put the commands of a stepped series into a sliced file; all else is left byte for byte."""
    from assayer.core.gcode.stepping import plan_steps, with_insertions
    from assayer.core.settings.series import check_series, make_series
    from assayer.services.gcode.inspections import blocks_of

    _existing(file)
    if out.resolve() == file.resolve():
        raise EntryError("write to another file: the original is kept", "out")
    series = make_series(setting, start, step, count, end, band_height, base_height)
    cautions = check_series(series)
    plan = plan_steps(blocks_of(file), series)
    partial = out.with_name(f"{out.name}.{os.getpid()}.part")
    try:
        with partial.open("wb") as target:
            target.writelines(with_insertions(blocks_of(file), plan.insertions))
        partial.replace(out)
    except OSError as error:
        raise EntryError(f"cannot write '{out}': {error.strerror or error}", "out") from None
    finally:
        with suppress(OSError):
            partial.unlink(missing_ok=True)
    unit = series.spec.unit
    for band in plan.bands:
        last = band.first_layer + band.layers - 1
        typer.echo(f"band {band.number}: {band.value:g} {unit}, layers {band.first_layer} to {last}, {band.low:g} to {band.high:g} mm")
    for insertion in plan.insertions:
        typer.echo(f"before line {insertion.line}: {insertion.text} ({insertion.why})")
    for caution in cautions:
        typer.echo(f"note: {caution.text}")


def _span(seconds: float) -> str:
    hours, rest = divmod(round(seconds), 3600)
    return f"{hours} h {rest // 60} min" if hours else f"{rest // 60} min {rest % 60} s"
