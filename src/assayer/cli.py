"""The command line. Errors are one line on stderr and exit status 2."""

from __future__ import annotations

import gc
import json
import shutil
import socket
import sys
from datetime import datetime
from pathlib import Path
from typing import Annotated, Any

import typer

import assayer
from assayer.core.errors import AssayerError, EntryError

app = typer.Typer(
    add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, help="The bench notebook for people who test 3D-printing filaments."
)
reduce_app = typer.Typer(no_args_is_help=True, help="Reduce a recorded test to results.")
app.add_typer(reduce_app, name="reduce")

DataOption = Annotated[Path | None, typer.Option("--data", help="Data folder; default: the usual place for user data.")]
JsonOption = Annotated[bool, typer.Option("--json", help="Print JSON.")]
PORT = 8717


@app.command()
def serve(
    data: DataOption = None,
    host: Annotated[str, typer.Option(help="Address to listen on; loopback only, there are no accounts yet.")] = "127.0.0.1",
    port: Annotated[int, typer.Option(min=0, max=65535, help="0 takes a free one.")] = PORT,
) -> None:
    """Serve the application."""
    from assayer.services.unit import default_folder

    _serve(data or default_folder(), host, port)


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
        _serve(folder, "127.0.0.1", port)


@app.command()
def recompute(data: DataOption = None, as_json: JsonOption = False) -> None:
    """Apply the newest reduction to every run and report each value that moved, old → new."""
    from assayer.services.bench.recompute import recompute as run
    from assayer.services.unit import Actor, Workspace, default_folder

    folder = data or default_folder()
    if not (folder / "assayer.db").exists():
        raise EntryError(f"there are no data in '{folder}': name the folder with --data")
    workspace = Workspace(folder)
    try:
        moved = run(workspace, Actor("recompute"), lambda done, total: typer.echo(f"{done} of {total}", err=True))
    finally:
        workspace.close()
    if as_json:
        typer.echo(json.dumps([{"code": m.code, "quantity": m.quantity, "old": m.old, "new": m.new, "unit": m.unit} for m in moved]))
        return
    for m in moved:
        typer.echo(f"{m.code}  {m.quantity}  {_figure(m.old)} → {_figure(m.new)} {m.unit}")
    typer.echo(f"{len(moved)} values moved" if moved else "no value moved")


@reduce_app.command("tension")
def reduce_tension(
    file: Annotated[Path, typer.Argument(help="The recorded curve.")],
    width: Annotated[str, typer.Option(help="Width of the section, mm unless a unit is given.")],
    thickness: Annotated[str, typer.Option(help="Thickness of the section, mm unless a unit is given.")],
    gauge_length: Annotated[str, typer.Option(help="Gauge length, mm unless a unit is given.")],
    compliance: Annotated[str, typer.Option(help="Compliance of the machine in mm/N.")] = "0",
    columns: Annotated[str | None, typer.Option(help="What the columns are, where the file does not tell: time:ms,travel:mm,force:gf")] = None,
    as_json: JsonOption = False,
) -> None:
    """Reduce a recorded pull to strength, modulus, strains and energy."""
    from assayer.core.quantities.units import LENGTH, parse_number, parse_quantity

    reduction = assayer.reduce_file(
        "tension",
        file,
        width=parse_quantity(width, LENGTH, field="width").value,
        thickness=parse_quantity(thickness, LENGTH, field="thickness").value,
        gauge_length=parse_quantity(gauge_length, LENGTH, field="gauge_length").value,
        compliance=parse_number(compliance, "compliance"),
        columns=columns,
    )
    if as_json:
        typer.echo(json.dumps(reduction.as_dict()))
        return
    signs = {"at_least": "≥ ", "at_most": "≤ "}
    for result in reduction.results:
        unit = "" if result.unit == "1" else result.unit
        notes = f"   ({'; '.join(result.warnings)})" if result.warnings else ""
        typer.echo(f"{result.quantity:20} {signs.get(result.bound, '') + _figure(result.value):>12} {unit}{notes}")
    for warning in reduction.warnings:
        typer.echo(f"note: {warning}")


@app.command()
def compare(
    file: Annotated[Path, typer.Argument(help="A table with a header row.")],
    value: Annotated[str, typer.Option(help="Header of the column of values.")],
    group: Annotated[str, typer.Option(help="Header of the column of groups.")],
    reference: Annotated[str | None, typer.Option(help="Group the others are judged against; default: the first.")] = None,
    margin: Annotated[str, typer.Option(help="Smallest difference that matters: 10% of the reference mean, or absolute.")] = "10%",
    lower_is_better: Annotated[bool, typer.Option("--lower-is-better")] = False,
    as_json: JsonOption = False,
) -> None:
    """Compare groups: Welch's ANOVA, all pairs, and a verdict on each against the reference."""
    from assayer.formats.tables.value_table import read_values

    found = assayer.compare(*read_values(file, value, group), reference=reference, margin=margin, lower_is_better=lower_is_better)
    if as_json:
        typer.echo(json.dumps(found.as_dict()))
        return
    for name, g in found.groups.items():
        ends = f"[{_figure(g.ci95.low)}, {_figure(g.ci95.high)}]" if g.ci95 else "(one value: no interval)"
        typer.echo(f"{name:16} n {g.n:<3} mean {_figure(g.mean)} {ends}")
    if found.anova:
        typer.echo(f"Welch's ANOVA: F {found.anova.f:.4g}, df {found.anova.df1:g} / {found.anova.df2:.4g}, p {found.anova.p:.3g}")
    for v in found.verdicts:
        more = f"; {v.more_specimens} more each would decide" if v.more_specimens else ""
        notes = f" ({'; '.join(v.notes)})" if v.notes else ""
        typer.echo(f"{v.group} against {found.reference}: {v.difference:+.4g}: {v.word}{more}{notes}")
    for warning in found.warnings:
        typer.echo(f"note: {warning}")


@app.command(hidden=True)
def openapi() -> None:
    """Print the API's description; the front end's types are generated from it."""
    from assayer.api.app import create_app

    typer.echo(json.dumps(create_app().openapi(), indent=1, sort_keys=True))


def _figure(value: float | None) -> str:
    return "—" if value is None else f"{value:.6g}"


def _instant(text: str) -> datetime:
    try:
        instant = datetime.fromisoformat(text)
    except ValueError:
        raise EntryError(f"'{text}' is no instant: write it like 2026-05-01T09:00:00Z", "now") from None
    if instant.tzinfo is None:
        raise EntryError(f"'{text}' has no zone: add Z or an offset", "now")
    return instant


def _serve(folder: Path, host: str, port: int) -> None:
    import uvicorn

    from assayer.api.app import LOOPBACK, create_app, front_end_folder
    from assayer.services.unit import Workspace

    if host not in LOOPBACK:
        raise EntryError(f"cannot serve on {host}: without accounts, which are not built yet, only this machine is served (127.0.0.1)")
    listener = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET, socket.SOCK_STREAM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
    except OSError:
        raise EntryError(f"port {port} is in use: stop the other program, or choose another with --port") from None
    workspace = Workspace(folder)
    try:
        if not front_end_folder().is_dir():
            typer.echo("the pages are not built, only the API is served: run make setup", err=True)
        typer.echo(f"Assayer is at http://{host}:{listener.getsockname()[1]}  (data in {folder}; Ctrl+C stops)")
        sys.stdout.flush()
        application = create_app(workspace)
        # what is loaded by now stays: collections need not walk over it while somebody waits
        gc.collect()
        gc.freeze()
        server = uvicorn.Server(uvicorn.Config(application, log_level="warning", access_log=False, server_header=False))
        server.run(sockets=[listener])
    finally:
        workspace.close()


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


if __name__ == "__main__":
    main()
