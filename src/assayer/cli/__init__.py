"""The command line. Errors are one line on stderr and exit status 2."""

from __future__ import annotations

import json
import shutil
import sys
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

import assayer
from assayer.cli import findings as findings
from assayer.cli import gcode as gcode
from assayer.cli import keeping as keeping
from assayer.cli import shapes as shapes
from assayer.cli.common import PORT, DataOption, JsonOption, app, bound_sign, figure
from assayer.cli.serving import holds_notebook, notebook, refuse_host, refuse_mistyped, serve_folder
from assayer.core.errors import AssayerError, EntryError
from assayer.core.quantities.words import counted

if TYPE_CHECKING:
    from assayer.core.methods.results import Reduction


@app.command()
def serve(
    data: DataOption = None,
    host: Annotated[str, typer.Option(help="Address to listen on; loopback only, there are no accounts yet.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(min=0, max=65535, help="0 takes a free one.")] = PORT,
    new: Annotated[bool, typer.Option("--new", help="Begin a new notebook in the folder.")] = False,
) -> None:
    """Serve the application."""
    from assayer.services.unit import default_folder

    refuse_host(host)
    folder = data or default_folder()
    if not holds_notebook(folder):
        if not new:
            refuse_mistyped(folder)
        typer.echo(f"there is no notebook in {folder} yet: a new one is begun there", err=True)
    serve_folder(folder, host, port)


@app.command()
def demo(
    data: DataOption = None,
    no_serve: Annotated[bool, typer.Option("--no-serve", help="Only make the data.")] = False,
    now: Annotated[str | None, typer.Option(help="Instant the data are made for, such as 2026-05-01T09:00:00Z.")] = None,
    port: Annotated[int, typer.Option(min=0, max=65535)] = PORT,
) -> None:
    """Make the demo data (unless the folder holds them already) and serve them."""
    from assayer.demo.scenario import make_demo
    from assayer.services.unit import default_folder, system_clock

    folder = data or default_folder().with_name("assayer-demo")
    at = _instant(now) if now else system_clock()
    if not (folder / "assayer.db").exists():
        typer.echo(f"making the demo data in {folder} …", err=True)
        partial = folder.with_name(folder.name + ".part")
        shutil.rmtree(partial, ignore_errors=True)
        make_demo(partial, at)
        # whole or not at all: a demo that was interrupted is made anew
        if folder.exists():
            if any(folder.iterdir()):
                raise EntryError(f"'{folder}' is not empty and holds no Assayer data: choose another folder with --data")
            folder.rmdir()
        partial.rename(folder)
    if not no_serve:
        serve_folder(folder, "127.0.0.1", port)


@app.command()
def recompute(data: DataOption = None, as_json: JsonOption = False) -> None:
    """Apply the newest reduction to every run and report each value that moved, old → new."""
    from assayer.services.bench.recompute import recompute as run
    from assayer.services.unit import Actor, Workspace, default_folder

    folder = notebook(data or default_folder())
    workspace = Workspace(folder)
    try:
        moved = run(workspace, Actor("recompute"), lambda done, total: typer.echo(f"{done} of {total}", err=True))
    finally:
        workspace.close()
    if as_json:
        typer.echo(json.dumps([m.model_dump(mode="json") for m in moved]))
        return
    for m in moved:
        typer.echo(f"{m.code}  {m.label}  {bound_sign(m.old_bound)}{figure(m.old)} → {bound_sign(m.new_bound)}{figure(m.new)} {m.unit}")
    typer.echo(f"{counted(len(moved), 'value')} moved" if moved else "no value moved")


@app.command("reduce")
def reduce_command(
    method: Annotated[str, typer.Argument(help="Such as creep; `assayer methods` lists them.")],
    file: Annotated[Path, typer.Argument(help="A run as JSON, or a recorded curve.")],
    width: Annotated[str | None, typer.Option(help="Width of the section, mm unless a unit is given.")] = None,
    thickness: Annotated[str | None, typer.Option(help="Thickness of the section, mm unless a unit is given.")] = None,
    shape: Annotated[str | None, typer.Option(help="Shape of the specimen, such as dumb-bell-1ba: travel is divided by its effective length.")] = None,
    gauge_length: Annotated[str | None, typer.Option(help="Length that travel is divided by instead, mm unless a unit is given.")] = None,
    compliance: Annotated[str | None, typer.Option(help="Compliance of the machine in mm/N; left out: not known.")] = None,
    columns: Annotated[str | None, typer.Option(help="What the columns are, where the file does not tell: time:ms,travel:mm,force:gf")] = None,
    reading: Annotated[list[str] | None, typer.Option(help="What was read besides a recorded curve, such as diameter=8.02 or span=64.")] = None,
    as_json: JsonOption = False,
) -> None:
    """Reduce one run to results: readings as JSON, or a recording with what was measured besides."""
    from assayer.core.methods import method as find_method
    from assayer.core.quantities.units import LENGTH, parse_number, parse_quantity

    find_method(method)
    section = {"width": width, "thickness": thickness, "gauge_length": gauge_length}
    given = {name: text for name, text in section.items() if text is not None}
    if file.suffix.lower() == ".json" and not given and shape is None:
        _show(assayer.reduce(method, file), as_json)
        return
    lengths = {name: parse_quantity(text, LENGTH, field=name).value for name, text in given.items()}
    readings: dict[str, object] = lengths | _readings(reading or [])
    if method == "tension":
        missing = next((name for name in ("width", "thickness") if name not in readings), None)
        if missing is not None:
            raise EntryError(f"a recorded curve needs --{missing}", missing)
        if shape is None and "gauge_length" not in readings:
            raise EntryError("a recorded curve needs --shape, or --gauge-length where the shape is none of ours", "shape")
        # of a length given by hand the shape is not known, and so neither are its grips
        shape = shape or ""
    give = None if compliance is None else parse_number(compliance, "compliance")
    _show(assayer.reduce_recording(method, file, readings, shape=shape, compliance=give, columns=columns), as_json)


def _readings(told: list[str]) -> dict[str, object]:
    """Readings as "name=value"; a name that comes again adds a reading."""
    found: dict[str, list[object]] = {}
    for one in told:
        name, mark, text = one.partition("=")
        if not mark or not text.strip():
            raise EntryError(f"a reading is given as name=value, but got '{one}'", "reading")
        found.setdefault(name.strip(), []).append(float(text) if _plain(text) else text.strip())
    return {name: values[0] if len(values) == 1 else values for name, values in found.items()}


def _plain(text: str) -> bool:
    """Whether a text is a number alone: then it is in the base unit."""
    try:
        float(text)
    except ValueError:
        return False
    return True


def _show(reduction: Reduction, as_json: bool) -> None:
    if as_json:
        typer.echo(json.dumps(reduction.as_dict()))
        return
    for result in reduction.results:
        unit = "" if result.unit == "1" else result.unit
        notes = f"   ({'; '.join(result.warnings)})" if result.warnings else ""
        ends = f" [{figure(result.interval.low)}, {figure(result.interval.high)}]" if result.interval else ""
        typer.echo(f"{result.key:24} {bound_sign(result.bound) + figure(result.value):>12} {unit}{ends}{notes}")
    for warning in reduction.warnings:
        typer.echo(f"note: {warning}")


@app.command("methods")
def methods_command(
    name: Annotated[str | None, typer.Argument(help="One method; left out: all.")] = None,
    schema: Annotated[bool, typer.Option("--schema", help="Print the JSON Schema of a run of it.")] = False,
) -> None:
    """The methods there are, with their fields and quantities."""
    from assayer.core.methods import REGISTRY
    from assayer.core.methods import method as find_method
    from assayer.formats.readings.run_file import schema_of

    if schema:
        if name is None:
            raise EntryError("name the method whose schema is wanted", "method")
        typer.echo(json.dumps(schema_of(find_method(name)), indent=1, ensure_ascii=False))
        return
    for method in [find_method(name)] if name is not None else REGISTRY.values():
        typer.echo(f"{method.name}: {method.label}, {method.after} ({method.procedure_version}, reduction {method.reduction_version})")
        typer.echo(f"  readings    {', '.join(f'{f.name} ({f.of_dimension.base})' for f in method.fields())}")
        if method.protocol().as_dict():
            typer.echo(f"  set by lab  {', '.join(method.protocol().as_dict())}")
        by = {"load": " by load", "after": " by time", "trait": " by trait", None: ""}
        typer.echo(f"  quantities  {', '.join(f'{q.name} ({q.unit}){by[q.by]}' for q in method.quantities)}")


@app.command(hidden=True)
def openapi() -> None:
    """Print the API's description; the front end's types are generated from it."""
    from assayer.api.app import create_app

    typer.echo(json.dumps(create_app().openapi(), indent=1, sort_keys=True))


def _instant(text: str) -> datetime:
    try:
        instant = datetime.fromisoformat(text)
    except ValueError:
        raise EntryError(f"'{text}' is no instant: write it like 2026-05-01T09:00:00Z", "now") from None
    if instant.tzinfo is None:
        raise EntryError(f"'{text}' has no zone: add Z or an offset", "now")
    return instant


def main() -> None:
    """Entry point: turns errors into one line on stderr and exit status 2."""
    try:
        result: Any = app(standalone_mode=False)
    except AssayerError as error:
        _fail(str(error))
    except (typer.Abort, KeyboardInterrupt):
        sys.exit(130)
    except Exception as error:
        # errors of usage, from whichever click Typer carries
        if hasattr(error, "format_message"):
            _fail(" ".join(str(error.format_message()).split()))
        raise
    sys.exit(result if isinstance(result, int) else 0)


def _fail(message: str) -> None:
    print(f"assayer: {message}", file=sys.stderr)
    sys.exit(2)
