"""What a notebook uses: `assayer.reduce`, `assayer.reduce_file`, `assayer.reduce_recording` and `assayer.compare`, with the names of the command line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from os import PathLike
from typing import Any

from assayer.core.errors import EntryError
from assayer.core.methods.results import Reduction
from assayer.core.methods.steps import RampStep, RecordingStep
from assayer.core.stats.batches import BatchRatio, batch_notes, summarise_batched
from assayer.core.stats.groups import GroupSummary, summarise
from assayer.core.stats.outliers import grubbs
from assayer.core.stats.several_groups import Anova, Pair, games_howell, welch_anova
from assayer.core.stats.verdicts import GoodSide, Margin, Verdict, decide
from assayer.formats.curves.curve_file import read_curve_file
from assayer.formats.readings.run_file import read_run, read_run_file


@dataclass(frozen=True, slots=True)
class Comparison:
    """Groups compared with each other and with one reference.

    `anova` is None with fewer than two groups that scatter; `verdicts` are against `reference`.
    """

    reference: str
    groups: dict[str, GroupSummary]
    anova: Anova | None
    pairs: list[Pair]
    verdicts: list[Verdict]
    warnings: list[str]
    batch_ratio: BatchRatio | None = None
    """Where batches were given, and a group has two."""

    def as_dict(self) -> dict[str, Any]:
        """The JSON of `assayer compare`."""
        return {
            "reference": self.reference,
            "groups": [_group_dict(name, g) for name, g in self.groups.items()],
            "anova": None if self.anova is None else {"f": self.anova.f, "df1": self.anova.df1, "df2": self.anova.df2, "p": self.anova.p},
            "pairs": [{"a": p.a, "b": p.b, "difference": p.difference, "ci95": _ends(p.ci95), "p": p.p} for p in self.pairs],
            "verdicts": [
                {
                    "group": v.group,
                    "difference": v.difference,
                    "ci95": _ends(v.ci95),
                    "ci90": _ends(v.ci90),
                    "verdict": str(v.word),
                    "more_specimens": v.more_specimens,
                    "notes": v.notes,
                }
                for v in self.verdicts
            ],
            "warnings": self.warnings,
            **({} if self.batch_ratio is None else _ratio_dict(self.batch_ratio)),
        }


def _group_dict(name: str, g: GroupSummary) -> dict[str, Any]:
    shown: dict[str, Any] = {"group": name, "n": g.n, "mean": g.mean, "sd": g.sd, "cv": g.cv, "ci95": _ends(g.ci95)}
    if g.batches:
        shown |= {"batches": g.batches, "within_sd": g.within_sd, "ci95_new_batch": _ends(g.ci95_new_batch)}
    return shown


def _ratio_dict(ratio: BatchRatio) -> dict[str, Any]:
    return {"batch_to_within": ratio.ratio, "phi": ratio.phi, "n0": ratio.n0, "df_batch": ratio.df}


def _ends(interval: Any) -> list[float] | None:
    return None if interval is None else [interval.low, interval.high]


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


def compare(
    values: Sequence[float],
    groups: Sequence[str],
    reference: str | None = None,
    margin: float | str = 0.10,
    lower_is_better: bool = False,
    batches: Sequence[str] | None = None,
) -> Comparison:
    """Compare groups with each other and with one reference.

    Parameters
    ----------
    values : sequence of float
    groups : sequence of str
        The group of each value.
    reference : str, optional
        Default: the group that comes first.
    margin : float or str
        Smallest difference that matters: 0.10 or "10%" of the reference mean, or "1.8" in the unit of the values.
    lower_is_better : bool
    batches : sequence of str, optional
        The batch of each value; batch is then a random effect in the groups that have two (METHODS 15).

    Raises
    ------
    EntryError
        If there is nothing to compare, the reference is unknown, or the margin is not above 0.
    """
    by_group, batches_of = _by_group(values, groups, batches)
    batched = summarise_batched(by_group, batches_of) if batches is not None else None
    summaries = batched.groups if batched is not None else {name: summarise(own) for name, own in by_group.items()}
    if not summaries:
        raise EntryError("there are no values to compare", "values")
    chosen = next(iter(summaries)) if reference is None else str(reference)
    if chosen not in summaries:
        raise EntryError(f"there is no group '{chosen}': the groups are {', '.join(summaries)}", "reference")
    others = {name: g for name, g in summaries.items() if name != chosen}
    side = GoodSide.LOWER if lower_is_better else GoodSide.HIGHER
    verdicts = decide(summaries[chosen], others, Margin.parse(margin), side)
    warnings = []
    for name, members in by_group.items():
        hint = grubbs(members)
        if hint is not None and hint.stands_out:
            warnings.append(f"{name}: {members[hint.index]:g} is an outlier (G {hint.g:.3f} > {hint.critical:.3f}); check it, it still counts")
    ratio = batched.batch_ratio if batched is not None else None
    if batches is not None:
        warnings += batch_notes(summaries, ratio)
    return Comparison(chosen, summaries, welch_anova(summaries), games_howell(summaries), verdicts, warnings, ratio)


def _by_group(values: Sequence[float], groups: Sequence[str], batches: Sequence[str] | None) -> tuple[dict[str, list[float]], dict[str, list[str]]]:
    """Values and batches by group, in order of first appearance."""
    for what, column in (("groups", groups), ("batches", batches)):
        if column is not None and len(column) != len(values):
            raise EntryError(f"values and {what} must be equally long, but got {len(values)} and {len(column)}", what)
    by_group: dict[str, list[float]] = {}
    batches_of: dict[str, list[str]] = {}
    for i, (value, group) in enumerate(zip(values, groups, strict=True)):
        by_group.setdefault(str(group), []).append(float(value))
        batches_of.setdefault(str(group), []).append("" if batches is None else str(batches[i]))
    return by_group, batches_of
