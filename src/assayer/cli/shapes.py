"""Specimen shapes on the command line: listed, and written as solids or drawings."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from assayer.cli.common import JsonOption, app
from assayer.core.errors import EntryError

KINDS = ("stl", "3mf", "svg")


@app.command("shapes")
def shapes_command(
    name: Annotated[str | None, typer.Argument(help="A shape; without it all are listed.")] = None,
    orientation: Annotated[str, typer.Option(help="flat, on edge (or on-edge), or upright.")] = "flat",
    size: Annotated[list[str] | None, typer.Option(help="A length of your own, as width=6, mm; as often as you like.")] = None,
    number: Annotated[int | None, typer.Option(min=1, max=999, help="Its place on the plate, sunk into it.")] = None,
    output: Annotated[Path | None, typer.Option("--output", "-o", help="A file: .stl, .3mf, or .svg for its dimensioned drawing.")] = None,
    as_json: JsonOption = False,
) -> None:
    """The specimen shapes there are, and their solids."""
    from assayer.services.printing import shapes

    if name is None:
        if output is not None:
            raise EntryError("name the shape that is to be written; `assayer shapes` lists them", "name")
        every = shapes.list_shapes()
        if as_json:
            typer.echo(every.model_dump_json())
            return
        for s in every.items:
            stands = ", ".join(o.orientation + (" (brim)" if o.brim else "") + (" (supports)" if o.supports else "") for o in s.standings if o.stands)
            typer.echo(f"{s.name:18} {s.label:28} {s.volume:7.2f} cm³  {stands}")
        return
    sizes = shapes.sizes_told(size or [])
    orientation = orientation.replace("-", " ")
    if output is None:
        sheet = shapes.shape_sheet(name, sizes)
        if as_json:
            typer.echo(sheet.model_dump_json())
            return
        typer.echo(f"{sheet.label}, {sheet.volume:.3f} cm³")
        for length, value in sheet.dimensions.items():
            typer.echo(f"  {length:16} {value:g}{'°' if length == 'angle' else ' mm'}")
        return
    kind = output.suffix.lower().lstrip(".")
    if kind not in KINDS:
        raise EntryError(f"'{output.name}' says no kind of file: end it in .stl, .3mf or .svg", "output")
    body = shapes.shape_file(name, orientation, kind, sizes, number)  # type: ignore[arg-type]
    try:
        output.write_bytes(body)
    except OSError as error:
        raise EntryError(f"'{output}' cannot be written: {error.strerror}", "output") from None
    typer.echo(f"{output}: {len(body):,} bytes".replace(",", " "))
