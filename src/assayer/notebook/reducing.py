"""`assayer.reduce`, `assayer.reduce_file` and `assayer.reduce_recording`, with the names of the command line."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from os import PathLike
from typing import Any

from assayer.core.errors import EntryError
from assayer.core.methods.results import Reduction
from assayer.core.methods.steps import RampStep, RecordingStep
from assayer.formats.curves.curve_file import read_curve_file
from assayer.formats.readings.run_file import read_run, read_run_file


def reduce(method: str, readings: Mapping[str, Any] | str | PathLike[str]) -> Reduction:
    """Reduce one run of any method, given in the open format for readings.

    Parameters
    ----------
    method : str
        Such as "creep"; `assayer methods` lists them.
    readings : mapping or path
        The readings by field, or the whole run (``{"method": …, "readings": {…}}``), or a JSON file of it. Numbers
        are in base units (N, mm, MPa, s, °C), strings carry their unit; a timed reading is an object with
        `after` and `value`.

    Raises
    ------
    EntryError
        Names the field that is unknown, missing, or of another dimension.

    Examples
    --------
    >>> reduce("shear", {"width": [5], "thickness": [5], "peak_force": "63 kgf"}).get("shear_strength").value
    12.356379
    """
    if isinstance(readings, Mapping):
        return read_run(readings, method).reduce()
    return read_run_file(str(readings), method).reduce()


def reduce_file(
    method: str,
    path: str | PathLike[str],
    *,
    width: float,
    thickness: float,
    gauge_length: float | None = None,
    shape: str | None = None,
    compliance: float | None = None,
    columns: str | None = None,
) -> Reduction:
    """Reduce one recorded curve of a pull.

    Parameters
    ----------
    method : str
        "tension".
    path : path
        The recording, in any of the dialects that `assayer.formats.curve_file` reads.
    width, thickness : float, mm
    gauge_length : float, mm, optional
        What travel is divided by; default: the effective length of `shape`. One of the two is needed.
    shape : str, optional
        Such as "dumb-bell-1ba"; its grips give the nominal strain.
    compliance : float, mm/N, optional
        Of the machine; default: not known.
    columns : str, optional
        "time:ms,travel:mm,force:gf" where the file does not tell.

    Raises
    ------
    EntryError, FileError, UnclearFileError
        With what is wrong and what to do about it.
    """
    if method != "tension":
        raise EntryError(f"a recorded curve is of tension; a run of '{method}' is reduced from its readings", "method")
    if gauge_length is None and shape is None:
        raise EntryError("a recorded curve needs the shape of the specimen, or a gauge length", "shape")
    readings = {"width": width, "thickness": thickness} | ({} if gauge_length is None else {"gauge_length": gauge_length})
    # without a shape there is no distance of grips, and so no nominal strain
    return reduce_recording(method, path, readings, shape=shape or "", compliance=compliance, columns=columns)


def reduce_recording(
    method: str,
    path: str | PathLike[str],
    readings: Mapping[str, Any],
    *,
    shape: str | None = None,
    compliance: float | None = None,
    columns: str | None = None,
) -> Reduction:
    """Reduce one recording of any method that takes one: a pull, a bend, a twist, a ramp.

    Parameters
    ----------
    method : str
    path : path
        The recording, in any of the dialects that `assayer.formats.curve_file` reads.
    readings : mapping
        What was read besides, in the open format: ``{"diameter": 8.02}``.
    shape : str, optional
        Of the specimen; default: the first of the method; "": of no known shape.
    compliance : float, mm/N, optional
        Of the machine; default: not known.
    columns : str, optional
        "time:s,angle:°,torque:N·m" where the file does not tell.

    Raises
    ------
    EntryError, FileError, UnclearFileError
        With what is wrong and what to do about it.
    """
    run = read_run({"readings": readings} | ({"shape": shape} if shape else {}), method)
    channels = next((s.channels for s in run.method.steps if isinstance(s, RecordingStep | RampStep)), None)
    if channels is None:
        raise EntryError(f"{run.method.label} takes no recording: its runs are reduced from their readings", "method")
    recording = read_curve_file(str(path), columns, channels).recording
    known = None if shape == "" else run.inputs.shape
    reduction = run.method.reduced(replace(run.inputs, recording=recording, compliance=compliance, shape=known))
    return run.method.with_bounds(reduction, run.inputs.outcome)
