"""What to try next: one thing at a time, with why, what it costs, and whether this trail has tried it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from assayer.core.advice.rules import FIRST_OF, RULES, Rule, Symptom, symptom
from assayer.core.advice.trials import Effect, Trial, changes_between
from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Span, Window
from assayer.core.methods.traits import trait
from assayer.core.settings.declared import SettingSpec, setting
from assayer.core.settings.limits import reach, windows
from assayer.core.settings.sheet import Difference, Value


class State(StrEnum):
    """How a candidate stands."""

    OPEN = "open"
    HELPED = "tried, helped"
    TRIED = "tried, no help"
    OUTSIDE = "outside the window"
    BEYOND = "beyond the printer"
    UNSAID = "not in the sheet"
    THERE = "is so already"


_ORDER = (State.OPEN, State.HELPED, State.UNSAID, State.OUTSIDE, State.TRIED, State.BEYOND, State.THERE)


@dataclass(frozen=True, slots=True)
class Candidate:
    """One thing to try from a trial.

    `before` and `after` None where the sheet does not say, or for an action beside the settings; `tried` what came of
    it in this trail, in words; `against` what stands against it.
    """

    rule: Rule
    state: State
    before: Value | None
    after: Value | None
    tried: str = ""
    against: str = ""


def lowest_trait(trial: Trial) -> tuple[str, float] | None:
    """The trait that is graded lowest, of those that have a good side; the first in the order of grading of several."""
    graded = [(grade, name) for name, grade in trial.grades.items() if (t := trait(name)) is not None and t.better and name in FIRST_OF]
    if not graded:
        return None
    least = min(grade for grade, _ in graded)
    return next((name, grade) for grade, name in graded if grade == least)


def symptom_of(trial: Trial) -> Symptom | None:
    """The symptom that the lowest grade means; nothing where all is at its best."""
    low = lowest_trait(trial)
    return symptom(FIRST_OF[low[0]]) if low is not None and low[1] < 4 else None


def candidates(about: Symptom, current: Trial, trials: Sequence[Trial], found: Sequence[Effect], window: Window, hardware: Hardware) -> list[Candidate]:
    """What may be tried against a symptom, the most promising first; the order of the table otherwise.

    Parameters
    ----------
    about : Symptom
    current : Trial
        Where the next trial would start from.
    trials : sequence of Trial
    found : sequence of Effect
        Those of the trail.
    window : Window
    hardware : Hardware
    """
    changed = _changed(current, trials)
    told = [_candidate(rule, about, current, changed, found, window, hardware) for rule in RULES if rule.symptom == about.name]
    return sorted(told, key=lambda c: _ORDER.index(c.state))


def _candidate(
    rule: Rule, about: Symptom, current: Trial, changed: Sequence[_Changed], found: Sequence[Effect], window: Window, hardware: Hardware
) -> Candidate:
    spec = setting(rule.setting)
    if spec is None:
        return Candidate(rule, State.OPEN, None, None)
    held = current.sheet.values.get(rule.setting)
    before = held.value if held is not None else None
    if before is None and rule.to is None:
        return Candidate(rule, State.UNSAID, None, None, against="the sheet does not say what it is now")
    after = moved(spec, rule, before)
    if after == before:
        return Candidate(rule, State.THERE, before, after)
    tried, helped = _tried(rule, about, changed, found, after)
    state = State.OPEN if helped is None else State.HELPED if helped > 0 else State.TRIED
    if not isinstance(after, str | bool):
        can = reach(rule.setting, hardware)
        if not can.holds(after):
            return Candidate(rule, State.BEYOND, before, after, tried, f"{hardware.name} reaches {can.words(spec.unit)}")
        span = windows(window).get(rule.setting, Span())
        if not span.holds(after):
            outside = f"outside the maker's window of {span.words(spec.unit)}"
            return Candidate(rule, State.OUTSIDE if state is State.OPEN else state, before, after, tried, outside)
    return Candidate(rule, state, before, after, tried)


def moved(spec: SettingSpec, rule: Rule, before: Value | None) -> Value:
    """The value that a rule leads to; kept to what the setting may be, and to whole or round figures."""
    if rule.to is not None:
        return rule.to
    if before is None or isinstance(before, str | bool):
        raise TypeError(f"{spec.name} has no number to move from")
    if rule.step is not None:
        value = before + rule.step
    else:
        value = before * (rule.factor or 1.0)
        value = round(value, 2) if value < 5 else float(round(value))
    return round(min(max(value, spec.low), spec.high), 4)


def _tried(rule: Rule, about: Symptom, changed: Sequence[_Changed], found: Sequence[Effect], after: Value) -> tuple[str, float | None]:
    """What this trail knows of a change, in words; and the change of the grade, if it was seen alone and the same way."""
    for effect in found:
        if effect.change.name != rule.setting:
            continue
        way = _way(effect, rule, after)
        if way == 0:
            continue
        change = effect.by_trait.get(about.trait or "", (0.0, 0))
        difference = change[0] * way
        a, b = effect.pairs[0] if way > 0 else effect.pairs[0][::-1]
        if rule.way and not _same_way(effect, rule, way):
            return f"tried the other way, from {a} to {b}: {_words(about, difference)}", None
        if not change[1]:
            end = "it did not come to its end" if effect.finishes * way < 0 else "not graded for this"
            return f"tried from {a} to {b}: {end}", -1.0 if effect.finishes * way < 0 else None
        return f"tried from {a} to {b}: {_words(about, difference)}", difference
    with_others = next((number for number, change in changed if change.name == rule.setting and _same(rule, change, after)), None)
    return (f"tried in {with_others}, with other changes at once: not told apart", None) if with_others else ("", None)


def _way(effect: Effect, rule: Rule, after: Value) -> int:
    """1 where an effect is read from before to after, −1 the other way round, 0 where it says nothing about a rule."""
    if rule.way:
        return 1 if effect.change.step is not None else 0
    if effect.change.after is not None and effect.change.after.value == after:
        return 1
    return -1 if effect.change.before is not None and effect.change.before.value == after else 0


def _same_way(effect: Effect, rule: Rule, way: int) -> bool:
    return (effect.change.step or 0.0) * way * rule.way > 0


def _words(about: Symptom, difference: float) -> str:
    named = trait(about.trait or "")
    what = named.short if named is not None else about.label
    return f"{what} {'unchanged' if abs(difference) < 1e-9 else f'{difference:+.2g}'.replace('-', '−')}"


_Changed = tuple[int, Difference]
"""A trial, and one thing in which it differs from the one that it started from."""


def _changed(current: Trial, trials: Sequence[Trial]) -> list[_Changed]:
    by_number = {t.number: t for t in trials}
    parents = [(t, by_number.get(t.parent) if t.parent is not None else None) for t in trials if t is not current]
    return [(t.number, change) for t, parent in parents if parent is not None for change in changes_between(parent, t)]


def _same(rule: Rule, change: Difference, after: Value) -> bool:
    """Whether a change went the way of a rule."""
    if rule.way:
        return (change.step or 0.0) * rule.way > 0
    return change.after is not None and change.after.value == after
