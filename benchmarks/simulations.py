"""How often intervals, verdicts, plans and hints are right: seeded simulations through the application's own rules, as the tables of docs/validation.md.

.venv/bin/python benchmarks/simulations.py > docs/validation.md
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from itertools import product
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

import simulations_of_findings as findings

from assayer.core.plan.fairness import shortcomings
from assayer.core.plan.plates import interleaved
from assayer.core.plan.study_plan import PlannedArm, Printing, StudiedFactor, StudyPlan
from assayer.core.stats.batches import summarise_batched
from assayer.core.stats.groups import summarise
from assayer.core.stats.outliers import grubbs
from assayer.core.stats.power import Design, detectable, power
from assayer.core.stats.verdicts import GroupBounds, Margin, VerdictWord, decide

DRAWS = 4000
MEAN = 100.0
FALSE = (VerdictWord.BETTER, VerdictWord.WORSE)


@dataclass(frozen=True)
class Case:
    """A test that is simulated: arms, batches of each, batch scatter over within scatter, and how unequal the arms scatter within."""

    arms: int
    batches: int
    ratio: float
    unequal: float

    @property
    def name(self) -> str:
        spread = "equal" if self.unequal == 1 else f"up to {self.unequal:g}-fold"
        return f"{self.arms} arms, {self.batches} batches of 3–5, batch scatter {self.ratio:g} × within, within {spread}"


def draw(case: Case, rng: np.random.Generator) -> tuple[dict[str, list[float]], dict[str, list[str]]]:
    """Values and batches of one simulated test; all arms have the mean 100, and the scatter within is 1 to `unequal`."""
    values: dict[str, list[float]] = {}
    labels: dict[str, list[str]] = {}
    within = np.geomspace(1, case.unequal, case.arms)
    rng.shuffle(within)
    for arm in range(case.arms):
        own, of = [], []
        for batch in range(case.batches):
            shift = rng.normal(0, case.ratio * within[arm])
            for _ in range(int(rng.integers(3, 6))):
                own.append(float(MEAN + shift + rng.normal(0, within[arm])))
                of.append(str(batch))
        values[str(arm)], labels[str(arm)] = own, of
    return values, labels


def coverage(case: Case) -> str:
    """Coverage of means and of the differences from the first arm, and how often a test of equal arms has a better or worse one."""
    rng = np.random.default_rng(1000)
    means = differences = false = naive = 0
    for _ in range(DRAWS):
        values, labels = draw(case, rng)
        groups = summarise_batched(values, labels).groups
        means += sum(g.ci95.low <= MEAN <= g.ci95.high for g in groups.values())
        others = {name: g for name, g in groups.items() if name != "0"}
        # a margin so small that nothing is equivalent: what matters here is the direction
        single = [decide(groups["0"], {name: g}, Margin(1e-6, relative=False))[0] for name, g in others.items()]
        differences += sum(v.ci95.low <= 0 <= v.ci95.high for v in single)
        false += any(v.word in FALSE for v in decide(groups["0"], others, Margin(1e-6, relative=False)))
        plain = {name: summarise(v) for name, v in values.items()}
        naive += any(v.word in FALSE for v in decide(plain["0"], {n: g for n, g in plain.items() if n != "0"}, Margin(1e-6, relative=False)))
    count = DRAWS * case.arms
    return f"| {case.name} | {100 * means / count:.1f} | {100 * differences / (DRAWS * (case.arms - 1)):.1f} | {100 * false / DRAWS:.1f} | {100 * naive / DRAWS:.1f} |"


def without_batches(which: tuple[int, float, float]) -> str:
    """Verdicts on two equal arms whose values are rounded to a step, and are lower bounds now and then."""
    n, step, bounded = which
    rng = np.random.default_rng(2000)
    false = 0
    for _ in range(DRAWS):
        groups, bounds = {}, {}
        for name in ("a", "b"):
            true = rng.normal(MEAN, 1, n)
            censored = rng.random(n) < bounded
            # a grip break stops short of the true value
            seen = np.where(censored, true - rng.exponential(1, n), true)
            seen = np.round(seen / step) * step if step else seen
            groups[name] = summarise(seen.tolist(), step)
            bounds[name] = GroupBounds(at_least=int(censored.sum()))
        verdict = decide(groups["a"], {"b": groups["b"]}, Margin(1e-6, relative=False), bounds=bounds, reference_bounds=bounds["a"])[0]
        false += verdict.word in FALSE
    return f"| n {n}, reading step {step:g} sd, {100 * bounded:.0f} % lower bounds | {100 * false / DRAWS:.1f} |"


def planned_power(which: tuple[int, int]) -> str:
    """The difference that a plan calls detectable at 80 %, and how often simulated tests detect it."""
    n, comparisons = which
    design = Design(n, comparisons=comparisons)
    difference = detectable(1.0, design)
    rng = np.random.default_rng(3000)
    seen = 0
    draws = 2 * DRAWS
    for _ in range(draws):
        groups = {str(i): summarise(rng.normal(MEAN + (difference if i == 1 else 0), 1, n).tolist()) for i in range(comparisons + 1)}
        verdicts = decide(groups["0"], {name: g for name, g in groups.items() if name != "0"}, Margin(1e-6, relative=False))
        seen += verdicts[0].ci95.clear_of_zero
    return f"| {n} | {comparisons} | {difference:.3f} | {100 * power(difference, 1.0, design):.1f} | {100 * seen / draws:.1f} |"


def planned_power_in_batches(which: tuple[int, int, float, int]) -> str:
    n, batches, ratio, comparisons = which
    design = Design(n, batches, ratio, comparisons)
    difference = detectable(1.0, design)
    rng = np.random.default_rng(4000)
    seen = 0
    labels = [str(i % batches) for i in range(n)]
    for _ in range(DRAWS):
        values = {}
        for i in range(comparisons + 1):
            shifts = rng.normal(0, ratio, batches)
            values[str(i)] = [float(MEAN + (difference if i == 1 else 0) + shifts[int(b)] + rng.normal()) for b in labels]
        groups = summarise_batched(values, dict.fromkeys(values, labels)).groups
        seen += decide(groups["0"], {n_: g for n_, g in groups.items() if n_ != "0"}, Margin(1e-6, relative=False))[0].ci95.clear_of_zero
    return f"| {n} in {batches}, ratio {ratio:g} | {comparisons} | {difference:.3f} | {100 * power(difference, 1.0, design):.1f} | {100 * seen / DRAWS:.1f} |"


def outliers(which: tuple[int, float]) -> str:
    n, step = which
    rng = np.random.default_rng(5000)
    hints = 0
    for _ in range(DRAWS):
        values = rng.normal(MEAN, 1, n)
        hint = grubbs((np.round(values / step) * step if step else values).tolist())
        hints += hint is not None and hint.stands_out
    return f"| outlier, n {n}, reading step {step:g} sd | {100 * hints / DRAWS:.1f} |"


def clean_plans() -> Iterator[tuple[str, StudyPlan]]:
    """Fifty plans that are fair: materials, sweeps and factorials, printed in rounds on one printer or in turn on two."""
    for seed in range(50):
        rng = np.random.default_rng(seed)
        count, batches = int(rng.integers(2, 9)), int(rng.integers(2, 5))
        names = [f"A{i}" for i in range(count)]
        sweep = seed % 3 == 1
        levels = [(float(f), float(t)) for f, t in product((0, 50), (220, 240))] if seed % 3 == 2 else []
        names = [f"A{i}" for i in range(len(levels))] or names
        order = interleaved(names, dict.fromkeys(names, batches), seed)
        per_day = max(1, len(names) * int(rng.integers(1, 3)) // 2)
        printed: dict[str, list[Printing]] = {n: [] for n in names}
        for place, (name, number) in enumerate(order):
            printer = "P1" if seed % 2 else f"P{1 + number % 2}"
            printed[name].append(Printing(printer, "brass", "L1", "dry", "prog", f"2026-05-{1 + place // per_day:02d}", float(rng.normal(22, 0.5))))
        arms = []
        for i, name in enumerate(names):
            settings = {"layer_height": 0.2, "nozzle_temperature": 230.0, "fan": 30.0}
            if sweep:
                settings["fan"] = 10.0 * i
            if levels:
                settings["fan"], settings["nozzle_temperature"] = levels[i]
            product_name = "Everyday" if sweep or levels else f"P{i}"
            arms.append(PlannedArm(name, product_name, "grey", settings=settings, batches=printed[name]))
        studied = ("fan",) if sweep else ("fan", "nozzle_temperature") if levels else ()
        factor = StudiedFactor.SETTING if studied else StudiedFactor.MATERIAL
        yield f"plan {seed}", StudyPlan(factor, arms, names[0], {"tension, flat": 6}, studied=studied)


def fairness_hints() -> Iterator[str]:
    counts: dict[str, int] = {}
    total = 0
    for _, plan in clean_plans():
        total += 1
        for found in {u.name for u in shortcomings(plan)}:
            counts[found] = counts.get(found, 0) + 1
    yield f"| any fairness hint on {total} clean plans | {100 * sum(counts.values()) / total:.1f} |"
    yield from (f"| {name} | {100 * n / total:.1f} |" for name, n in counts.items())


def table(pool: ProcessPoolExecutor, head: str, rows: Callable[..., str], cases: list) -> None:
    columns = head.count("|") - 1
    print(head)
    print("|---" + "|---:" * (columns - 1) + "|")
    for row in pool.map(rows, cases):
        print(row)
    print()


def main() -> None:
    print("# Validation\n")
    print(f"Written by `benchmarks/simulations.py` (seeded; {DRAWS} draws of each case, so that 95 % is known to ± 0.7 points and 5 % likewise).")
    print("Everything is put through the rules of the application itself. Figures are in per cent.\n")
    with ProcessPoolExecutor(2) as pool:
        print("## Batches as a random effect\n")
        print("Required: 94–97 % with at least four arms or three batches of each; 92 % with two arms of two batches, where the page says")
        print('"few batches"; at most 6 % of tests of equal arms with a better or worse one. The last column is what plain samples would give.\n')
        cases = [Case(a, b, r, u) for (a, b) in ((2, 2), (2, 3), (2, 4), (4, 2), (4, 3), (8, 2)) for r in (0, 0.5, 1) for u in (1, 7)]
        table(pool, "| case | means covered | differences covered | false better or worse | … of plain samples |", coverage, cases)
        print("## Verdicts without batches: rounding and bounds\n")
        print("Required: at most 5 % better or worse where both arms have the same mean.\n")
        plain = [(n, step, bounded) for n in (3, 5, 10) for step, bounded in ((0, 0), (1, 0), (3, 0), (0, 0.3), (1, 0.3))]
        table(pool, "| case | false better or worse |", without_batches, plain)
        print("## Intervals of means, differences and percentages\n")
        print("Required: 95 %. The skewed values are lognormal with a CV of a quarter; the difference of the means is four standard deviations.\n")
        spreads = [(n, spread) for spread in findings.SPREADS for n in (2, 3, 5, 10)]
        table(pool, "| case | mean | difference | percentage |", findings.intervals, spreads)
        print("## Verdicts at known differences\n")
        print("10 % matter, the CV is 5 %. Required: at 0 margins at most 5 % better or worse, at 1 margin at most 5 % equivalent.\n")
        known = [(n, m, batched) for n, batched in ((3, False), (5, False), (10, False), (9, True)) for m in (0, 0.5, 1, 2)]
        table(pool, "| true difference | better | equivalent | undecided | worse |", findings.verdicts, known)
        print("## Sweeps\n")
        print("Six levels, three of each, 10 % may be lost; 50 draws. *Covered*: the interval of the optimum holds the true one, and how often it is given.")
        print("*Wrongly in*: of levels that lose more than 10 %, those in the window (required: at most 5 %). *Found*: of those that lose less.\n")
        table(
            pool,
            "| true shape | shape chosen | optimum covered, of | wrongly in | found |",
            findings.sweeps,
            [(s, sd) for s in findings.TRUE for sd in (0.5, 1.0)],
        )
        print("## Planned power\n")
        print("Required: within 2 points of the simulated power, for the difference (in standard deviations) that a plan calls detectable at 80 %.\n")
        table(pool, "| specimens of each | comparisons | detectable, sd | planned | simulated |", planned_power, [(n, k) for n in range(2, 11) for k in (1, 4)])
        print("In batches (the scatter is that within a batch):\n")
        designs = [(6, 2, 0.5, 4), (6, 3, 0.5, 1), (8, 4, 0.5, 1), (8, 2, 1.0, 4), (12, 4, 1.0, 2)]
        table(pool, "| specimens of each | comparisons | detectable, sd | planned | simulated |", planned_power_in_batches, designs)
        print("## Hints where nothing is wrong\n")
        print("Required: each at most 5 %.\n")
        table(pool, "| hint | raised |", outliers, [(n, step) for n in (4, 5, 7, 10) for step in (0, 1, 3)])
        doubts = [
            (findings.unlike_batches, [(3, b, r) for b in (2, 3, 4) for r in (0, 0.5)]),
            (findings.unlike_history, [(n, r, cv) for n in (3, 5) for r in (0, 0.5) for cv in (0.05, 0.15)]),
            (findings.break_places, [3, 5, 10]),
            (findings.claims, [3, 5]),
        ]
        for rows, cases in doubts:
            table(pool, "| doubt | raised |", rows, cases)
    print("| hint | raised |\n|---|---:|")
    for row in fairness_hints():
        print(row)


if __name__ == "__main__":
    main()
