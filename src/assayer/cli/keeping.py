"""Commands that keep the notebook safe: backup, restore, check."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from assayer.cli.common import DataOption, JsonOption, app
from assayer.cli.serving import notebook
from assayer.core.errors import EntryError
from assayer.core.quantities.words import counted

if TYPE_CHECKING:
    from assayer.store.backup import Progress


@contextmanager
def _shown_progress() -> Iterator[Progress]:
    """A line of progress on stderr, where somebody looks at it."""
    shown = sys.stderr.isatty()

    def progress(what: str, share: float) -> None:
        if shown:
            print(f"\r{what}: {share:4.0%}   ", end="", file=sys.stderr, flush=True)

    try:
        yield progress
    finally:
        if shown:
            print("\r\033[K", end="", file=sys.stderr, flush=True)


@app.command()
def backup(file: Annotated[Path, typer.Argument(help="The zip to write.")], data: DataOption = None) -> None:
    """Copy the whole notebook into one file, also while it is served; the copy is checked before it is called done."""
    from assayer.services.safekeeping.backups import make_backup
    from assayer.services.unit import Workspace, default_folder

    folder = notebook(data or default_folder())
    if file.is_dir() or file.suffix.lower() != ".zip":
        raise EntryError(f"'{file}' is no name of a zip: name the file to write, such as notebook.zip", "file")
    workspace = Workspace(folder)
    try:
        with _shown_progress() as progress:
            _, manifest = make_backup(workspace, file.absolute(), progress=progress)
    finally:
        workspace.close()
    for digest in manifest.missing:
        typer.echo(f"note: the recording {digest[:12]}… was missing already: assayer check says more")
    size = file.stat().st_size / 1e6
    typer.echo(f"{file} holds {counted(sum(manifest.rows.values()), 'row')} and {counted(len(manifest.files), 'file')} ({size:.1f} MB), and stood its check")


@app.command()
def restore(
    file: Annotated[Path, typer.Argument(help="A backup.")],
    data: Annotated[Path, typer.Option("--data", help="Data folder; what lies in it already is kept beside it.")],
) -> None:
    """Put the notebook of a backup into a data folder; nothing is changed if the backup is no good."""
    from assayer.store.backup import restore as put_back

    with _shown_progress() as progress:
        former = put_back(file, data.absolute(), progress)
    if former is not None:
        typer.echo(f"what lay there before is in {former}")
    typer.echo(f"restored into {data}: assayer serve --data {data}")


@app.command("check")
def check_command(data: DataOption = None, as_json: JsonOption = False) -> None:
    """Look through everything that is kept: database, references, recordings, results against readings. Exit status 1 if something is wrong."""
    from assayer.services.safekeeping.check import check
    from assayer.services.unit import Workspace, default_folder

    workspace = Workspace(notebook(data or default_folder()))
    try:
        with _shown_progress() as progress:
            report = check(workspace, progress)
    finally:
        workspace.close()
    if as_json:
        typer.echo(report.model_dump_json(indent=1))
    else:
        for fault in report.faults:
            typer.echo(f"wrong: {fault.text}\n  what to do: {fault.advice}")
        for note in report.notes:
            typer.echo(f"note: {note}")
        if not report.faults:
            counts = f"{counted(report.rows, 'row')}, {counted(report.recordings, 'file')}"
            typer.echo(f"all is whole: {counts}; {counted(report.runs, 'run')} reduced again to the results that are kept")
    if report.faults:
        raise typer.Exit(1)
