"""What all commands share."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

app = typer.Typer(
    add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False, help="The bench notebook for people who test 3D-printing filaments."
)
DataOption = Annotated[Path | None, typer.Option("--data", help="Data folder; default: the usual place for user data.")]
JsonOption = Annotated[bool, typer.Option("--json", help="Print JSON.")]
PORT = 8717


def bound_sign(bound: str | None) -> str:
    return {"at_least": "≥ ", "at_most": "≤ "}.get(bound or "", "")


def figure(value: float | None) -> str:
    return "—" if value is None else f"{value:.6g}"
