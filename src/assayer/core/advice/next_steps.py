"""What to try next: one thing at a time, with why, what it costs, and whether it was tried."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

from assayer.core.advice.rules import FIRST_OF, RULES, Rule, Symptom, symptom
from assayer.core.advice.trials import FAILED, Effect, Trial, changes_between
from assayer.core.filament.fit import Hardware
from assayer.core.filament.polymers import card_of
from assayer.core.filament.window import Span, Window
from assayer.core.methods.traits import trait
from assayer.core.settings.declared import SettingSpec, setting
from assayer.core.settings.limits import limited, reach, windows
from assayer.core.settings.sheet import Difference, Set, Sheet, Value


class State(StrEnum):
    """How a candidate stands."""

    FIRST = "do this first"
    BETWEEN = "between two that bracket it"
    OPEN = "open"
    HELPED = "tried, helped"
    ONCE = "seen once, helped"
    UNSAID = "not in the sheet"
    OUTSIDE = "outside the window"
    TRIED = "tried, no help"
    FAILED = "failed there"
    PRINTED = "printed or planned already"
    BEYOND = "beyond the printer"
    UNFIT = "not for this polymer"
    THERE = "is so already"


_ORDER = tuple(State)


@dataclass(frozen=True, slots=True)
class Candidate:
    """One thing to try from a trial.

    `before` and `after` None where the sheet does not say, or for an action beside the settings; `tried` what came of
    it, in words; `against` what stands against it.
    """

    rule: Rule
    state: State
    before: Value | None
    after: Value | None
    tried: str = ""
    against: str = ""


@dataclass(frozen=True, slots=True)
class TowerGrades:
    """A graded tower: what it is called, the setting that it steps, and by its values the grades of their bands, by trait."""

    name: str
    setting: str
    bands: Mapping[float, Mapping[str, float]]


@dataclass(frozen=True, slots=True)
class Known:
    """What is known besides the trial that the next one starts from.

    Attributes
    ----------
    trials : sequence of Trial
        Printed ones of this dial-in.
    effects : sequence of Effect
        Of those.
    sheets : mapping of number to Sheet
        Of all trials, those planned too.
    towers : sequence of TowerGrades
        Of the material.
    elsewhere : sequence of (name, Effect)
        What other dial-ins of the material saw.
    spool_dry : bool or None
        Whether the spool that is printed from is dry; None: not known, or it does not matter.
    window : Window
    hardware : Hardware
    polymer : str
        As the material calls it.
    """

    trials: Sequence[Trial] = ()
    effects: Sequence[Effect] = ()
    sheets: Mapping[int, Sheet] = field(default_factory=dict)
    towers: Sequence[TowerGrades] = ()
    elsewhere: Sequence[tuple[str, Effect]] = ()
    spool_dry: bool | None = None
    window: Window = field(default_factory=Window)
    hardware: Hardware = field(default_factory=Hardware)
    polymer: str = ""


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


def candidates(about: Symptom, current: Trial, known: Known) -> list[Candidate]:
    """What may be tried against a symptom from a trial, the most promising first; the order of the table otherwise.

    Where the usual way of a setting was tried and made it worse, the opposite way is offered beside it.
    """
    listed: list[Candidate] = []
    for rule in (r for r in RULES if r.symptom == about.name):
        candidate = _candidate(rule, about, current, known)
        listed.append(candidate)
        if candidate.state in (State.TRIED, State.FAILED) and rule.way and _made_worse(rule, about, current, known):
            opposite = _candidate(_opposite(rule), about, current, known)
            # what the other way did here was seen from the other end: it is offered for what it is
            listed.append(replace(opposite, state=State.OPEN if opposite.state in (State.TRIED, State.HELPED, State.ONCE) else opposite.state))
    return sorted(listed, key=lambda c: _ORDER.index(c.state))


def _opposite(rule: Rule) -> Rule:
    step = None if rule.step is None else -rule.step
    factor = None if rule.factor is None else 1 / rule.factor
    return replace(rule, step=step, factor=factor, why="The usual way made it worse here: this is the other one.", cost="what the usual way would have gained")


def _candidate(rule: Rule, about: Symptom, current: Trial, known: Known) -> Candidate:
    spec = setting(rule.setting)
    if spec is None:
        if known.spool_dry is None:
            return Candidate(rule, State.OPEN, None, None)
        return Candidate(rule, State.THERE, None, None, against="the spool is dry") if known.spool_dry else Candidate(rule, State.FIRST, None, None)
    held = current.sheet.values.get(rule.setting)
    before = held.value if held is not None else None
    if before is None and rule.to is None:
        return Candidate(rule, State.UNSAID, None, None, against="the sheet does not say what it is now")
    after = moved(spec, rule, before)
    bracket = _bracketed(spec, rule, current, known, before)
    words = ""
    if bracket is not None:
        after, words = bracket
    if after == before:
        return Candidate(rule, State.THERE, before, after)
    candidate = Candidate(rule, State.BETWEEN, before, after, words) if bracket is not None else _from_evidence(rule, about, current, known, before, after)
    return _within_reach(spec, candidate, current, known)


def _from_evidence(rule: Rule, about: Symptom, current: Trial, known: Known, before: Value | None, after: Value) -> Candidate:
    """A candidate as this dial-in, a tower, or another dial-in of the material saw it, in this order."""
    words, helped, credited = _tried(rule, about, known.effects, after)
    if not words:
        words, helped, credited = _in_towers(rule, about, known.towers, before, after)
    if not words:
        words, helped, credited = _elsewhere(rule, about, known.elsewhere, after)
    if not words:
        numbers = [number for number, change in _changed(current, known.trials) if change.name == rule.setting and _same(rule, change, after)]
        words = f"tried in {numbers[0]}, with other changes at once: not told apart" if numbers else ""
    state = State.OPEN if helped is None else State.TRIED if helped <= 0 else State.HELPED if credited else State.ONCE
    return Candidate(rule, state, before, after, words)


def _within_reach(spec: SettingSpec, candidate: Candidate, current: Trial, known: Known) -> Candidate:
    """What stands against a candidate: a sheet that was printed, a value that failed, the printer, the maker's window."""
    name, after = candidate.rule.setting, candidate.after
    assert after is not None
    number = _printed_as(current, name, after, known.sheets)
    if number is not None:
        return replace(candidate, state=State.PRINTED, against=f"trial {number} has this sheet")
    warm = name == "chamber_temperature" or (name == "door" and after == "closed")
    unsuitable = _warm_air(candidate, known) if warm else None
    if unsuitable is not None:
        return unsuitable
    if isinstance(after, str | bool):
        return candidate
    failed = _failed_beyond(name, after, known.trials)
    if failed is not None:
        return replace(candidate, state=State.FAILED, against=f"trial {failed.number} failed at {failed.sheet.values[name].value:g} {spec.unit}".rstrip())
    can = reach(name, known.hardware)
    if not can.holds(after):
        return replace(candidate, state=State.BEYOND, against=f"{known.hardware.name} reaches {can.words(spec.unit)}")
    if can == Span() and limited(name):
        candidate = replace(candidate, against=f"whether {known.hardware.name} reaches it is not known")
    span = windows(known.window).get(name, Span())
    if not span.holds(after):
        state = State.OUTSIDE if candidate.state in (State.OPEN, State.BETWEEN) else candidate.state
        return replace(candidate, state=state, against=f"outside the maker's window of {span.words(spec.unit)}")
    return candidate


def _warm_air(candidate: Candidate, known: Known) -> Candidate | None:
    """Why a closed door or a warm chamber is not offered, or what about it is not known; None where nothing stands against it (PROCESS 1 and 2)."""
    if known.hardware.enclosed is False:
        return replace(candidate, state=State.BEYOND, against=f"{known.hardware.name} is open: it has no door to close and keeps no chamber warm")
    card = card_of(known.polymer)
    maker_wants = known.window.enclosure is True or known.window.chamber.known
    if card is not None and card.keep_open and not maker_wants:
        return replace(candidate, state=State.UNFIT, against=f"{card.name} is printed cool and open: in warm air it softens and clogs (general)")
    if known.hardware.enclosed is None and candidate.rule.setting == "door":
        return replace(candidate, against=f"whether {known.hardware.name} is enclosed is not known")
    return None


def _printed_as(current: Trial, name: str, after: Value, sheets: Mapping[int, Sheet]) -> int | None:
    """The number of a trial, printed or planned, that has the sheet which a change would lead to."""
    changed = {**current.sheet.values, name: Set(after)}
    values = {n: assigned.value for n, assigned in changed.items()}
    return next((number for number, sheet in sheets.items() if {n: assigned.value for n, assigned in sheet.values.items()} == values), None)


def _failed_beyond(name: str, after: float, trials: Sequence[Trial]) -> Trial | None:
    """A trial that failed when this setting alone was moved to its value, where going to `after` would go as far or further that way."""
    by_number = {t.number: t for t in trials}
    for trial in (t for t in trials if t.outcome in FAILED):
        parent = by_number.get(trial.parent) if trial.parent is not None else None
        change = next((c for c in changes_between(parent, trial) if c.name == name), None) if parent is not None else None
        value = trial.sheet.values.get(name)
        if change is None or not change.step or value is None or isinstance(value.value, str | bool):
            continue
        if (after - value.value) * change.step >= 0:
            return trial
    return None


def moved(spec: SettingSpec, rule: Rule, before: Value | None) -> Value:
    """The value that a rule leads to; kept to what the setting may be, and to whole or round figures."""
    if rule.to is not None:
        return rule.to
    if before is None or isinstance(before, str | bool):
        raise TypeError(f"{spec.name} has no number to move from")
    value = before + rule.step if rule.step is not None else _round(before * (rule.factor or 1.0))
    return round(min(max(value, spec.low), spec.high), 4)


def _round(value: float) -> float:
    return round(value, 2) if value < 5 else float(round(value))


def _bracketed(spec: SettingSpec, rule: Rule, current: Trial, known: Known, before: Value | None) -> tuple[float, str] | None:
    """The middle between the value now and one that was printed in the rule's way and went too far; None where none did.

    Too far is a print that failed, or one whose own lowest trait asks for the way back.
    """
    if not rule.way or before is None or isinstance(before, str | bool):
        return None
    beyond: list[tuple[float, Trial, str]] = []
    for trial in known.trials:
        changes = changes_between(current, trial)
        if len(changes) != 1 or changes[0].name != rule.setting or (changes[0].step or 0.0) * rule.way <= 0:
            continue
        value = trial.sheet.values[rule.setting].value
        own = symptom_of(trial)
        back = own is not None and any(r.symptom == own.name and r.setting == rule.setting and r.way == -rule.way for r in RULES)
        if (trial.outcome in FAILED or back) and not isinstance(value, str | bool):
            beyond.append((value, trial, "failed" if trial.outcome in FAILED else own.label if own is not None else ""))
    if not beyond:
        return None
    value, trial, what = min(beyond, key=lambda b: abs(b[0] - before))
    middle = _round((before + value) / 2)
    if not min(before, value) < middle < max(before, value):
        return None
    return middle, f"{value:g} {spec.unit} in trial {trial.number} went too far ({what})"


Evidence = tuple[str, float | None, bool]
"""What is known of a change in words, the change of the grade (None: nothing was seen), and whether it is more than seen once."""
NOTHING: Evidence = ("", None, False)


def _tried(rule: Rule, about: Symptom, effects: Sequence[Effect], after: Value) -> Evidence:
    """What the trials know of a change: all that went the same way together, else those that went the other way."""
    oriented = [(e, way) for e in effects if e.change.name == rule.setting and (way := _way(e, rule, after))]
    same = [(e, way) for e, way in oriented if not rule.way or _same_way(e, rule, way)]
    graded = [(e, way) for e, way in same if about.trait in e.by_trait]
    if graded:
        difference = _mean_change(about, graded)
        credited = sum(e.grades.get(about.trait or "", 0) for e, _ in graded) > 1
        return f"{'tried' if credited else 'seen once,'} {_pairs(graded)}: {_words(about, difference)}", difference, credited
    if same:
        ended = min(e.finishes * way for e, way in same) >= 0
        return f"tried {_pairs(same)}: {'not graded for this' if ended else 'it did not come to its end'}", None if ended else -1.0, True
    other = [(e, way) for e, way in oriented if about.trait in e.by_trait]
    if not other:
        return NOTHING
    difference = _mean_change(about, other)
    # what made it better the other way, or changed nothing, is no reason to go this way
    return f"tried the other way, {_pairs(other)}: {_words(about, difference)}", 0.0 if difference >= 0 else None, True


def _mean_change(about: Symptom, oriented: Sequence[tuple[Effect, int]]) -> float:
    rows = [(e.by_trait[about.trait or ""], way) for e, way in oriented]
    return sum(change * way * n for (change, n), way in rows) / sum(n for (_, n), _ in rows)


def _pairs(oriented: Sequence[tuple[Effect, int]]) -> str:
    pairs = [pair if way > 0 else pair[::-1] for e, way in oriented for pair in e.pairs]
    first = f"from {pairs[0][0]} to {pairs[0][1]}"
    return first if len(pairs) == 1 else f"{first} and {len(pairs) - 1} more"


def _in_towers(rule: Rule, about: Symptom, towers: Sequence[TowerGrades], before: Value | None, after: Value) -> Evidence:
    """What the bands of a tower that are nearest to both values say."""
    if isinstance(before, str | bool) or before is None or isinstance(after, str | bool):
        return NOTHING
    for tower in towers:
        graded = {value: grades[about.trait or ""] for value, grades in tower.bands.items() if about.trait in grades}
        if tower.setting != rule.setting or not graded or not min(graded) <= after <= max(graded):
            continue
        here, there = (min(graded, key=lambda v, at=at: abs(v - at)) for at in (before, after))  # type: ignore[misc]
        if here != there:
            difference = graded[there] - graded[here]
            return f"{tower.name}, {here:g} to {there:g}: {_words(about, difference)}", difference, False
    return NOTHING


def _elsewhere(rule: Rule, about: Symptom, elsewhere: Sequence[tuple[str, Effect]], after: Value) -> Evidence:
    """What another dial-in of the material saw; its parts and sheets are others, so that it is never credited."""
    for name, effect in elsewhere:
        words, difference, _ = _tried(rule, about, [effect], after)
        if difference is not None:
            return f"in “{name}” {words}", difference, False
    return NOTHING


def _made_worse(rule: Rule, about: Symptom, current: Trial, known: Known) -> bool:
    """Whether the usual way of a rule was tried and lowered the grade, or did not come to its end."""
    spec, present = setting(rule.setting), current.sheet.values.get(rule.setting)
    if spec is None or present is None:
        return False
    _, difference, _ = _tried(rule, about, known.effects, moved(spec, rule, present.value))
    other = any(e.change.name == rule.setting and _same_way(e, rule, way) for e in known.effects if (way := _way(e, rule, present.value)))
    return other and difference is not None and difference < 0


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


def _changed(current: Trial, trials: Sequence[Trial]) -> Iterator[tuple[int, Difference]]:
    """Trials, and the things in which each differs from the one that it started from."""
    by_number = {t.number: t for t in trials}
    for trial in trials:
        parent = by_number.get(trial.parent) if trial.parent is not None else None
        if parent is not None and trial is not current:
            yield from ((trial.number, change) for change in changes_between(parent, trial))


def _same(rule: Rule, change: Difference, after: Value) -> bool:
    """Whether a change went the way of a rule."""
    if rule.way:
        return (change.step or 0.0) * rule.way > 0
    return change.after is not None and change.after.value == after
