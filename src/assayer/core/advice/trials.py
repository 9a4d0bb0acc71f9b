"""What each change did: credited only where it stood alone.

Two prints whose sheets differ in one thing tell what that thing does. Where more was changed at once, none of the
changes is credited, and the print that would tell them apart is named.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from assayer.core.settings.sheet import PREPARED, Difference, Set, Sheet, differences

FAILED = ("failed", "stopped")
"""Outcomes of a print that did not come to its end."""


@dataclass(frozen=True, slots=True)
class Trial:
    """One print of the trail, as far as crediting needs it.

    Attributes
    ----------
    number : int
        In the order of the trail.
    parent : int or None
        Number of the trial that it started from.
    sheet : Sheet
    around : mapping of str to str
        What else must be alike for two prints to be compared: what was printed, which spool, how dry.
    grades : mapping of str to float
        By trait; what counts of several graders.
    outcome : str
    graders : mapping of str to int
        By trait, how many graded it; 1 where it is not told.
    spool_known : bool
        Whether it is recorded which spool it was printed from.
    """

    number: int
    parent: int | None
    sheet: Sheet
    around: Mapping[str, str] = field(default_factory=dict)
    grades: Mapping[str, float] = field(default_factory=dict)
    outcome: str = "good"
    graders: Mapping[str, int] = field(default_factory=dict)
    spool_known: bool = True


@dataclass(frozen=True, slots=True)
class Effect:
    """What one change did, over all trials that isolate it; oriented from the value that the trail had first.

    `by_trait` mean change of the grade and how many comparisons it is from; `seen` how often the change stood alone;
    `pairs` the trials compared, from and to; `finishes` mean change of whether it came to its end, −1 … 1; `grades` by
    trait, how many grades stand on the side with fewer, of prints whose spool is known.
    """

    change: Difference
    seen: int
    by_trait: Mapping[str, tuple[float, int]]
    pairs: tuple[tuple[int, int], ...]
    finishes: float
    grades: Mapping[str, int] = field(default_factory=dict)

    def credited(self, trait: str) -> bool:
        """Whether what it did to a trait rests on more than a single grade, and on spools that are known: else it was seen once."""
        return self.grades.get(trait, 0) > 1


@dataclass(frozen=True, slots=True)
class Untold:
    """A trial that changed several things at once, those of them that no comparison isolates, and the missing print.

    `missing`: of the trial `start`, with this one change.
    """

    number: int
    changes: tuple[Difference, ...]
    untold: tuple[Difference, ...]
    start: int
    missing: Difference


def changes_between(a: Trial, b: Trial) -> list[Difference]:
    """Everything in which two trials differ, their surroundings among it."""
    found = differences(a.sheet, b.sheet)
    for name in dict.fromkeys((*a.around, *b.around)):
        before, after = a.around.get(name), b.around.get(name)
        if before != after:
            found.append(Difference(name, Set(before) if before else None, Set(after) if after else None, name))
    return found


def effects(trials: Sequence[Trial]) -> list[Effect]:
    """The effect of every change that stands alone between two trials of the trail, whichever they are.

    Prints of the same sheet under the same conditions count as one place with several prints: their mean grade is
    compared, and a comparison counts as often as the place with fewer prints was printed.
    """
    cells = _cells(trials)
    firsts = _first_seen(trials)
    rows: dict[tuple[str, object, object], list[tuple[Difference, list[Trial], list[Trial]]]] = defaultdict(list)
    for a, b in _one_apart(cells):
        (change,) = changes_between(a[0], b[0])
        if firsts[change.name, _key(change.before)] > firsts[change.name, _key(change.after)]:
            change, a, b = Difference(change.name, change.after, change.before, change.label, change.unit), b, a
        rows[change.name, _key(change.before), _key(change.after)].append((change, a, b))
    return [_effect(found) for found in rows.values()]


def _cells(trials: Sequence[Trial]) -> list[list[Trial]]:
    cells: dict[tuple[object, ...], list[Trial]] = defaultdict(list)
    for trial in sorted(trials, key=lambda t: t.number):
        values = _values(trial)
        cells[tuple((name, values[name]) for name in sorted(values))].append(trial)
    return list(cells.values())


def _values(trial: Trial) -> dict[str, object]:
    found: dict[str, object] = {name: _key(held) for name, held in trial.sheet.values.items()}
    found |= {extra.label: (extra.value, None, ()) for extra in trial.sheet.extras}
    if trial.sheet.prepared_with:
        found[PREPARED] = (trial.sheet.prepared_with, None, ())
    return found | {name: (value, None, ()) for name, value in trial.around.items() if value}


def _key(held: Set | None) -> object:
    return None if held is None else (held.value, held.schedule, held.regions)


def _first_seen(trials: Sequence[Trial]) -> dict[tuple[str, object], int]:
    """The number of the first trial that has each value of each setting; one that does not say, too."""
    found: dict[tuple[str, object], int] = {}
    names = {d for t in trials for d in _values(t)}
    for trial in sorted(trials, key=lambda t: t.number):
        values = _values(trial)
        for name in names:
            found.setdefault((name, values.get(name)), trial.number)
    return found


def _one_apart(cells: list[list[Trial]]) -> list[tuple[list[Trial], list[Trial]]]:
    """Pairs of places that differ in exactly one thing."""
    values = [_values(cell[0]) for cell in cells]
    names = sorted({name for v in values for name in v})
    if not names:
        return []
    ids: dict[object, int] = {}
    table = np.array([[ids.setdefault((name, v.get(name)), len(ids)) for name in names] for v in values])
    apart = (table[:, None, :] != table[None, :, :]).sum(axis=2)
    return [(cells[i], cells[j]) for i, j in zip(*np.nonzero(np.triu(apart == 1)), strict=True)]


def _effect(found: list[tuple[Difference, list[Trial], list[Trial]]]) -> Effect:
    by_trait: dict[str, list[tuple[float, int]]] = defaultdict(list)
    grades: dict[str, int] = defaultdict(int)
    finishes: list[tuple[float, int]] = []
    pairs = []
    for _, a, b in found:
        weight = min(len(a), len(b))
        pairs.append((a[0].number, b[0].number))
        finishes.append((_finished(b) - _finished(a), weight))
        for name in {t for trial in a for t in trial.grades} & {t for trial in b for t in trial.grades}:
            before, after = ([t.grades[name] for t in side if name in t.grades] for side in (a, b))
            by_trait[name].append((sum(after) / len(after) - sum(before) / len(before), min(len(before), len(after))))
            grades[name] += min(sum(t.graders.get(name, 1) for t in side if name in t.grades and t.spool_known) for side in (a, b))
    return Effect(
        change=found[0][0],
        seen=sum(min(len(a), len(b)) for _, a, b in found),
        by_trait={name: (_mean(told), sum(n for _, n in told)) for name, told in by_trait.items()},
        pairs=tuple(sorted(pairs)),
        finishes=_mean(finishes),
        grades=dict(grades),
    )


def _mean(told: list[tuple[float, int]]) -> float:
    return sum(value * n for value, n in told) / sum(n for _, n in told)


def _finished(trials: list[Trial]) -> float:
    return sum(t.outcome not in FAILED for t in trials) / len(trials)


def untold(trials: Sequence[Trial], found: Sequence[Effect] | None = None) -> list[Untold]:
    """Trials that changed several things at once and of which something is still not told apart."""
    found = effects(trials) if found is None else found
    alone = {(e.change.name, frozenset((_key(e.change.before), _key(e.change.after)))) for e in found}
    by_number = {t.number: t for t in trials}
    told = []
    for trial in sorted(trials, key=lambda t: t.number):
        parent = by_number.get(trial.parent) if trial.parent is not None else None
        if parent is None:
            continue
        changes = changes_between(parent, trial)
        if len(changes) < 2:
            continue
        left = [c for c in changes if (c.name, frozenset((_key(c.before), _key(c.after)))) not in alone]
        if left:
            told.append(Untold(trial.number, tuple(changes), tuple(left), parent.number, left[0]))
    return told
