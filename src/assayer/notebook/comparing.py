"""`assayer.compare`: groups compared with each other and with one reference."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from assayer.core.errors import EntryError
from assayer.core.stats.batches import BatchRatio, batch_notes, summarise_batched
from assayer.core.stats.groups import GroupSummary, summarise
from assayer.core.stats.outliers import grubbs
from assayer.core.stats.several_groups import Anova, Pair, games_howell, welch_anova
from assayer.core.stats.verdicts import GoodSide, Margin, Verdict, decide


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
