"""`assayer.effects`, `sweep`, `agreement`, `claim` and `statements`: what differs, by how much, and what was said of it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Any

from assayer.core.errors import EntryError
from assayer.core.statements.check import CheckedStatement, MaterialResult, check_statement
from assayer.core.stats.agreement import Agreement
from assayer.core.stats.agreement import agreement as fit_agreement
from assayer.core.stats.claimed import ClaimJudgement, judge_factor, judge_value
from assayer.core.stats.effects import Effects, effects_of_values
from assayer.core.stats.groups import Interval, summarise
from assayer.core.stats.sweep import Sweep
from assayer.core.stats.sweep import sweep as fit_sweep
from assayer.core.stats.verdicts import GoodSide, Margin


def effects(values: Sequence[float], factors: Mapping[str, Sequence[str]]) -> Effects:
    """Main effects and interactions of several factors.

    Parameters
    ----------
    values : sequence of float
    factors : mapping of name to one level for each value

    Raises
    ------
    EntryError
        If a combination of levels lacks values, or a column is shorter than the values.
    """
    short = next((name for name, column in factors.items() if len(column) != len(values)), None)
    if short is not None:
        raise EntryError(f"'{short}' has {len(factors[short])} levels, but there are {len(values)} values", "factors")
    by_cell: dict[tuple[str, ...], list[float]] = defaultdict(list)
    for cell, value in zip(zip(*(map(str, column) for column in factors.values()), strict=True), values, strict=True):
        by_cell[cell].append(float(value))
    columns = {name: [str(level) for level in column] for name, column in factors.items()}
    return effects_of_values(columns, [float(v) for v in values], {cell: summarise(own) for cell, own in by_cell.items()})


def effects_dict(result: Effects) -> dict[str, Any]:
    """The JSON of `assayer effects`."""
    shown = [
        {
            "factor": e.name, "level": ":".join(e.levels), "against": ":".join(e.against), "difference": e.difference,
            **({"ci95": _ends(e.ci95), "df": e.df, "p": e.p} if result.pse is None else {}), **({"aliases": list(e.aliases)} if e.aliases else {}),
        }
        for e in result.effects
    ]  # fmt: skip
    return {"effects": shown, **({} if result.pse is None else {"pse": result.pse, "stands_out_from": result.stands_out_from})}


def sweep(x: Sequence[float], y: Sequence[float], margin: float | str = 0.10, lower_is_better: bool = False) -> Sweep:
    """The response to one setting: its shape, its lack of fit, the best level and the window around it.

    Parameters
    ----------
    x, y : sequence of float
        Setting and response of each specimen.
    margin : float or str
        The loss that does not matter: 0.10 or "10%" of the best level's mean, or "2" in the unit of the response.
    lower_is_better : bool
    """
    if len(x) != len(y):
        raise EntryError(f"there are {len(x)} settings, but {len(y)} responses", "y")
    return fit_sweep(x, y, Margin.parse(margin), lower_is_better)


def sweep_dict(result: Sweep) -> dict[str, Any]:
    """The JSON of `assayer sweep`; `inside` says whether the optimum is the best point of the tested range."""
    optimum = result.optimum
    ends = None if optimum is None else optimum.interval
    return {
        "shapes": {str(shape): {"aicc": c.aicc, "lack_of_fit_p": c.lack_of_fit_p} for shape, c in result.curves.items()},
        "chosen": "none" if result.chosen is None else str(result.chosen),
        **({} if optimum is None else {"optimum": {"x": optimum.x, "low": ends and ends.low, "high": ends and ends.high, "inside": optimum.inside}}),
        "best_level": result.best_level,
        "levels": [{"x": v.x, "n": v.n, "mean": v.mean, "loss": v.loss, "loss_limit": v.loss_limit, "in_window": v.in_window} for v in result.levels],
        "pure_error_sd": result.pure_error_sd,
        "margin": result.margin,
    }


def agreement(x: Sequence[float], y: Sequence[float]) -> Agreement:
    """The line between the readings of two rigs, one pair for each material; its `predicted` converts within their range."""
    if len(x) != len(y):
        raise EntryError(f"there are {len(x)} readings of the one rig, but {len(y)} of the other", "y")
    return fit_agreement(x, y)


def agreement_dict(result: Agreement, at: float | None = None) -> dict[str, Any]:
    """The JSON of `assayer agreement`."""
    shown: dict[str, Any] = {
        "slope": result.slope,
        "intercept": result.intercept,
        "se_slope": result.se_slope,
        "se_intercept": result.se_intercept,
        "s": result.s,
    }
    if at is not None:
        value, ends = result.predicted(at)
        shown["at"] = {"predicted": value, "low": ends.low, "high": ends.high}
    return shown


def claim(request: Mapping[str, Any]) -> ClaimJudgement:
    """Judge a claimed value or factor.

    Parameters
    ----------
    request : mapping
        As `assayer claim` reads it: ``{"claimed": 52, "unit": "MPa", "values": […], "margin": "10%", "better": "higher"}``,
        or ``claimed_factor`` and ``against`` instead of ``claimed``.

    Raises
    ------
    EntryError
        Names the key that is missing or of another kind.
    """
    side = _side(request.get("better", "higher"), "better")
    values = summarise(_numbers(request, "values"))
    if "claimed_factor" in request:
        return judge_factor(_number(request, "claimed_factor"), values, summarise(_numbers(request, "against")), side)
    margin = request.get("margin", "10%")
    if isinstance(margin, bool) or not isinstance(margin, str | int | float):
        raise EntryError("a margin is a number or a share such as 10%", "margin")
    return judge_value(_number(request, "claimed"), values, Margin.parse(margin if isinstance(margin, str) else f"{margin:g}"), side)


def claim_dict(result: ClaimJudgement, is_factor: bool) -> dict[str, Any]:
    """The JSON of `assayer claim`."""
    shown: dict[str, Any] = {"verdict": str(result.verdict), "ci95": _ends(result.ci95), ("ratio" if is_factor else "mean"): result.measured}
    return shown | ({"reason": result.reason} if result.reason else {})


def statements(request: Mapping[str, Any]) -> list[CheckedStatement]:
    """Hold sentences against results.

    Parameters
    ----------
    request : mapping
        ``{"results": [{material, quantity, unit, mean, ci95, better}], "statements": [{"text": …}]}``.
    """
    results = [_result(row, i) for i, row in enumerate(_rows(request, "results"), 1)]
    return [check_statement(_text(row, "text", f"statements, row {i}"), results) for i, row in enumerate(_rows(request, "statements"), 1)]


def statements_dict(checked: Sequence[CheckedStatement]) -> dict[str, Any]:
    """The JSON of `assayer statements`."""
    return {"statements": [{"text": s.text, "kind": str(s.kind), "verdict": str(s.verdict), **({"is": s.actual} if s.actual else {})} for s in checked]}


def _result(row: Mapping[str, Any], number: int) -> MaterialResult:
    place = f"results, row {number}"
    ends = row.get("ci95")
    if ends is not None and not (isinstance(ends, list) and len(ends) == 2 and all(_is_number(e) for e in ends)):
        raise EntryError(f"{place}: ci95 is a list of two numbers, or null", "ci95")
    interval = None if ends is None else Interval(float(ends[0]), float(ends[1]))
    if not _is_number(row.get("mean")):
        raise EntryError(f"{place}: mean is a number", "mean")
    side = _side(row.get("better", "higher"), "better")
    return MaterialResult(_text(row, "material", place), _text(row, "quantity", place), str(row.get("unit", "")), float(row["mean"]), interval, side)


def _rows(request: Mapping[str, Any], key: str) -> list[Mapping[str, Any]]:
    rows = request.get(key)
    if not isinstance(rows, list) or not all(isinstance(row, Mapping) for row in rows):
        raise EntryError(f"'{key}' is a list of objects", key)
    return rows


def _text(row: Mapping[str, Any], key: str, place: str) -> str:
    text = row.get(key)
    if not isinstance(text, str) or not text.strip():
        raise EntryError(f"{place}: '{key}' is a text", key)
    return text


def _side(word: object, key: str) -> GoodSide:
    if word not in [side.value for side in GoodSide]:
        raise EntryError(f"'{word}' is no side: {key} is higher, lower or none", key)
    return GoodSide(word)


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _number(request: Mapping[str, Any], key: str) -> float:
    value = request.get(key)
    if not _is_number(value):
        raise EntryError(f"'{key}' is a number" if key in request else f"'{key}' is missing", key)
    return float(value)  # type: ignore[arg-type]


def _numbers(request: Mapping[str, Any], key: str) -> list[float]:
    values = request.get(key)
    if not isinstance(values, list) or not values or not all(_is_number(v) for v in values):
        raise EntryError(f"'{key}' is a list of numbers, at least one", key)
    return [float(v) for v in values]


def _ends(interval: Interval | None) -> list[float] | None:
    return None if interval is None else [interval.low, interval.high]
