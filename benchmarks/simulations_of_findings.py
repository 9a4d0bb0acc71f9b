"""How often the figures of Findings are right: intervals, verdicts at known differences, sweeps of every shape, doubts where nothing is wrong."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.stats.batches import summarise_batched
from assayer.core.stats.break_places import commonest_place
from assayer.core.stats.claimed import ClaimVerdict, judge_value
from assayer.core.stats.groups import summarise
from assayer.core.stats.relative import relative_to
from assayer.core.stats.sweep import Shape, sweep
from assayer.core.stats.unlike import differs_beyond_batches, unlike_batch
from assayer.core.stats.verdicts import GoodSide, Margin, VerdictWord, decide

DRAWS = 4000
MEAN = 100.0
Draw = Callable[[np.random.Generator, int], np.ndarray]

_SHAPE_OF_SKEW = 0.25
SPREADS: dict[str, Draw] = {
    "normal": lambda rng, n: rng.normal(0, 1, n),
    # of a lognormal with a CV of a quarter, as impact energies have: skewness 0.8, scaled to sd 1
    "skewed": lambda rng, n: (
        (np.exp(rng.normal(0, _SHAPE_OF_SKEW, n)) - np.exp(_SHAPE_OF_SKEW**2 / 2)) / (np.exp(_SHAPE_OF_SKEW**2 / 2) * np.sqrt(np.exp(_SHAPE_OF_SKEW**2) - 1))
    ),
}


def intervals(which: tuple[int, str]) -> str:
    """Coverage of a mean, of a difference, and of a percentage (the ratio of two means)."""
    n, spread = which
    rng = np.random.default_rng(6000)
    mean = difference = ratio = 0
    for _ in range(DRAWS):
        a, b = (summarise((centre + 5 * SPREADS[spread](rng, n)).tolist()) for centre in (MEAN, 120.0))
        mean += a.ci95.low <= MEAN <= a.ci95.high
        verdict = decide(a, {"b": b}, Margin(1e-6, relative=False))[0]
        difference += verdict.ci95.low <= 20.0 <= verdict.ci95.high
        relative = relative_to(a, b)
        ratio += relative.ci95.low <= 1.2 <= relative.ci95.high
    return f"| n {n}, {spread} | {100 * mean / DRAWS:.1f} | {100 * difference / DRAWS:.1f} | {100 * ratio / DRAWS:.1f} |"


def verdicts(which: tuple[int, float, bool]) -> str:
    """What is said of an arm that truly differs by so many margins; 10 % matter, the CV is 5 %."""
    n, margins, batched = which
    rng = np.random.default_rng(7000)
    words: Counter[VerdictWord] = Counter()
    for _ in range(DRAWS):
        values, labels = {}, {}
        for name, centre in (("a", MEAN), ("b", MEAN * (1 + 0.1 * margins))):
            shifts = rng.normal(0, 2.5 if batched else 0, 3)
            labels[name] = [str(i % 3) for i in range(n)] if batched else ["0"] * n
            values[name] = [float(centre + shifts[int(i)] + rng.normal(0, 5)) for i in labels[name]]
        groups = summarise_batched(values, labels).groups
        words[decide(groups["a"], {"b": groups["b"]}, Margin(0.10))[0].word] += 1
    shown = (VerdictWord.BETTER, VerdictWord.EQUIVALENT, VerdictWord.UNDECIDED, VerdictWord.WORSE)
    cells = " | ".join(f"{100 * words[w] / DRAWS:.1f}" for w in shown)
    return f"| n {n}{' in 3 batches' if batched else ''}, {margins:g} margins | {cells} |"


TRUE: dict[str, tuple[Callable[[np.ndarray], np.ndarray], float | None]] = {
    "straight": (lambda x: 20 + 0.1 * x, None),
    "quadratic": (lambda x: 30 - 0.004 * (x - 55) ** 2, 55.0),
    "peak": (lambda x: 30 - 6 * np.log(x / 45) ** 2, 45.0),
    "plateau": (lambda x: 30 - 0.004 * np.minimum(x - 70, 0) ** 2, None),
}
LEVELS = np.array([20.0, 35, 50, 65, 80, 100])


def sweeps(which: tuple[str, float]) -> str:
    """Six levels, three of each: the shape, the optimum and its interval, levels taken into the window wrongly, and true ones found."""
    name, sd = which
    response, optimum = TRUE[name]
    rng = np.random.default_rng(8000)
    draws = DRAWS // 80
    chosen = covered = given = wrong = within = true_within = outside = 0
    truth = response(LEVELS)
    allowed = 0.1 * truth.max()
    for _ in range(draws):
        x = np.repeat(LEVELS, 3)
        try:
            found = sweep(x.tolist(), (response(x) + rng.normal(0, sd, x.size)).tolist(), Margin(0.10))
        except EntryError:
            continue
        chosen += found.chosen is Shape(name)
        if optimum is not None and found.optimum is not None and found.optimum.interval is not None:
            given += 1
            covered += found.optimum.interval.low <= optimum <= found.optimum.interval.high
        for level, value in zip(found.levels, truth, strict=True):
            is_true = truth.max() - value <= allowed
            true_within += is_true
            outside += not is_true
            within += is_true and level.in_window
            wrong += not is_true and level.in_window
    share = "–" if not given else f"{100 * covered / given:.0f} of {100 * given / draws:.0f}"
    return f"| {name}, sd {sd:g} | {100 * chosen / draws:.0f} | {share} | {100 * wrong / max(1, outside):.1f} | {100 * within / true_within:.0f} |"


def unlike_batches(which: tuple[int, int, float]) -> str:
    size, batches, ratio = which
    rng = np.random.default_rng(9000)
    raised = 0
    for _ in range(DRAWS):
        shifts = rng.normal(0, ratio, batches)
        values = [float(shifts[b] + rng.normal()) for b in range(batches) for _ in range(size)]
        raised += unlike_batch(values, [str(b) for b in range(batches) for _ in range(size)]) is not None
    return f"| batch unlike the others, {batches} of {size}, batch scatter {ratio:g} × within | {100 * raised / DRAWS:.1f} |"


def unlike_history(which: tuple[int, float, float]) -> str:
    """The same material twice, each time in a batch of its own."""
    n, ratio, cv = which
    rng = np.random.default_rng(10_000)
    raised = 0
    for _ in range(DRAWS):
        one, other = (summarise((MEAN * (1 + cv * (rng.normal(0, ratio) + rng.normal(0, 1, n)))).tolist()) for _ in range(2))
        raised += differs_beyond_batches(one, other, 10.0)
    return f"| unlike earlier results or another colour, n {n}, CV {100 * cv:g} %, batch scatter {ratio:g} × within | {100 * raised / DRAWS:.1f} |"


def break_places(n: int) -> str:
    rng = np.random.default_rng(11_000)
    raised = 0
    for _ in range(DRAWS // 10):
        place = commonest_place(rng.random(n).round(3).tolist())
        raised += place is not None and place.stands_out
    return f"| breaks at one place, n {n} ({DRAWS // 10} draws) | {100 * raised / (DRAWS // 10):.1f} |"


def claims(n: int) -> str:
    """A claim that is just true."""
    rng = np.random.default_rng(12_000)
    raised = 0
    for _ in range(DRAWS):
        group = summarise(rng.normal(MEAN, 5, n).tolist())
        raised += judge_value(MEAN, group, Margin(0.10), GoodSide.HIGHER).verdict is ClaimVerdict.CONTRADICTED
    return f"| claim contradicted, n {n} | {100 * raised / DRAWS:.1f} |"
