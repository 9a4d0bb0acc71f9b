"""Whether a plan can answer its question: what differs beside the studied factor, what is missing, what is tied together.

Rules of our own, from the design of experiments: a difference can only be laid to what alone differed (DESIGN 1.2).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from itertools import combinations

from assayer.core.plan.crossed import first_unlike, lacking_levels
from assayer.core.plan.study_plan import MATERIAL_BOUND, PlannedArm, Printing, Shortcoming, StudiedFactor, StudyPlan
from assayer.core.plan.tied_settings import TIED, determines, explained_share
from assayer.core.quantities.words import Value, and_words, value_words

_UNEVEN = 0.25
"""Of an arm's batches: as many more on one printer (nozzle, lot) than another arm has there are taken as even."""


def shortcomings(plan: StudyPlan) -> list[Shortcoming]:
    """All that a plan lacks, the blocking first, each once."""
    found = [*_missing(plan), *_other_settings(plan), *_other_things(plan), *_tied(plan), *_batches(plan), *_outside(plan)]
    return sorted(found, key=lambda u: not u.blocking)


def _missing(plan: StudyPlan) -> list[Shortcoming]:
    found = []
    if len(plan.arms) < 2:
        found.append(
            Shortcoming("one arm", True, "there is one arm only", "nothing is compared: a mean and its interval is all there is", "add what it is held against")
        )
    elif plan.reference is None:
        found.append(
            Shortcoming("no reference", True, "no arm is the reference", "there are no verdicts, only pairs", "say which arm the others are held against")
        )  # fmt: skip
    if not plan.replicates:
        found.append(Shortcoming("no tests", True, "no test is planned", "nothing is measured", "add a test"))
    if plan.factor is StudiedFactor.TREATMENT and len(plan.arms) > 1 and all(a.treatment for a in plan.arms):
        found.append(
            Shortcoming(
                "no control", True, "every arm is treated", "treatments are compared with one another; whether any of them helps is not seen",
                "add an arm that is not treated",
            )
        )  # fmt: skip
    single = [label for label, n in plan.replicates.items() if n == 1]
    if single:
        found.append(
            Shortcoming(
                "no replicates", True, f"one specimen of each for {and_words(single)}",
                "it has no interval: one print stands for a material, and no verdict is given", "plan at least 3 of each, better 5",
            )
        )  # fmt: skip
    pairs = [label for label, n in plan.replicates.items() if n == 2]
    if pairs:
        found.append(
            Shortcoming(
                "two replicates", False, f"two specimens of each for {and_words(pairs)}",
                "the interval reaches 13 standard errors to each side: nothing but great differences is seen", "plan at least 3 of each, better 5",
            )
        )  # fmt: skip
    return found + _missing_combinations(plan)


def _missing_combinations(plan: StudyPlan) -> list[Shortcoming]:
    """Materials of a crossed plan that lack a level which others have."""
    if not plan.crosses_materials or plan.factor is StudiedFactor.MATERIAL:
        return []
    lacking = [", ".join(material) for material in lacking_levels([((a.product, a.colour), _level(plan, a)) for a in plan.arms])]
    if not lacking:
        return []
    return [
        Shortcoming(
            "combinations missing", False, f"{and_words(lacking)} {'lacks' if len(lacking) == 1 else 'lack'} a {plan.factor} that the others have",
            f"how the {plan.factor} acts on each material cannot be compared", f"plan each material with every {plan.factor}",
        )
    ]  # fmt: skip


def _level(plan: StudyPlan, arm: PlannedArm) -> str:
    """What an arm has of the studied factor."""
    if plan.factor is StudiedFactor.SETTING:
        return repr([arm.settings.get(name) for name in settings_studied(plan.studied)])
    own = {StudiedFactor.TREATMENT: arm.treatment, StudiedFactor.PRINTER: arm.printer, StudiedFactor.RIG: arm.rig, StudiedFactor.LOT: arm.lot}
    return own.get(plan.factor, "")


def _other_settings(plan: StudyPlan) -> list[Shortcoming]:
    """Settings that differ beside what is studied; and a sweep in which nothing differs, or two things do."""
    differing = differing_settings([a.settings for a in plan.arms])
    allowed = set(settings_studied(plan.studied)) if plan.factor is StudiedFactor.SETTING else set()
    if plan.factor is StudiedFactor.MATERIAL and plan.each_at_best:
        allowed |= set(MATERIAL_BOUND)
    found = []
    for name in (n for n in differing if n not in allowed):
        label, unit = plan.labels.get(name, (name.replace("_", " "), ""))
        values = [_shown(a.settings.get(name), unit) for a in plan.arms]
        free = plan.factor is StudiedFactor.MATERIAL and not plan.each_at_best and name in MATERIAL_BOUND
        found.append(
            Shortcoming(
                "setting differs", True, f"{label} differs: {_listed(plan.arms, values)}",
                f"a difference may come from {label} as well as from the {plan.factor}",
                "print each at its best and say so, or set all alike" if free else f"print all with one {label}", name,
            )
        )  # fmt: skip
    if plan.factor is StudiedFactor.SETTING and len(plan.arms) > 1:
        found += _sweep(plan, [n for n in differing if n in allowed])
    return found


TOGETHER = "+"


def settings_studied(told: Sequence[str]) -> list[str]:
    """The settings that are studied, each by itself, of those told together too."""
    return [name for entry in told for name in entry.split(TOGETHER)]


def _sweep(plan: StudyPlan, moved: list[str]) -> list[Shortcoming]:
    # of those that move together the first stands for all
    beside = {name for entry in plan.studied for name in entry.split(TOGETHER)[1:]}
    moved = [n for n in moved if n not in beside] or moved[:1]
    words, units = ([plan.labels.get(n, (n.replace("_", " "), ""))[i] for n in moved] for i in (0, 1))
    if not plan.studied or not moved:
        what = and_words([plan.labels.get(n, (n.replace("_", " "), ""))[0] for n in settings_studied(plan.studied)]) or "a setting"
        return [Shortcoming("nothing differs", True, f"{what} is the same in all arms", "nothing is studied", f"give the arms different values of {what}")]
    if len(moved) < 2:
        return []
    sheets = [a.settings for a in plan.arms]
    tied = [i for i, name in enumerate(moved) if explained_share(sheets, name, [n for n in moved if n != name]) > TIED]
    if len(tied) < 2:
        functions = [(i, j) for i, a in enumerate(moved) for j, b in enumerate(moved) if i != j and determines(sheets, a, b)]
        tied = sorted(functions[0]) if functions else []
    if not tied:
        return []
    a, b = tied[0], tied[1]
    first, last = plan.arms[0].settings, plan.arms[-1].settings
    cross = f"{words[a]} {_shown(first.get(moved[a]), units[a])} with {words[b]} {_shown(last.get(moved[b]), units[b])}"
    return [
        Shortcoming(
            "settings tied", True, f"{and_words([words[i] for i in tied])} change together",
            "which of them did it cannot be told; together they are one factor",
            f"add the run that parts them: {cross}; or say that they belong together",
        )
    ]  # fmt: skip


_WHAT_ARMS_ARE: tuple[tuple[str, Callable[[PlannedArm], str], tuple[StudiedFactor, ...], str], ...] = (
    ("product", lambda a: a.product, (StudiedFactor.MATERIAL,), "take one product"),
    ("colour", lambda a: a.colour, (StudiedFactor.COLOUR,), "take one colour"),
    ("treatment", lambda a: a.treatment, (StudiedFactor.TREATMENT,), "treat all alike"),
    ("lot", lambda a: a.lot, (StudiedFactor.LOT,), "print all from one lot"),
    ("printer", lambda a: a.printer, (StudiedFactor.PRINTER,), "print all on one printer"),
    ("rig", lambda a: a.rig, (StudiedFactor.RIG,), "test all on one rig"),
)
"""How it is called, where it is found, in studies of what it may differ, and the mending."""


def _other_things(plan: StudyPlan) -> list[Shortcoming]:
    """What arms are, beside settings."""
    lacking = []
    for what, of, may_differ, fix in _WHAT_ARMS_ARE:
        values = [of(a) for a in plan.arms]
        alike = len(set(values)) < 2
        if what == plan.factor and alike and len(plan.arms) > 1:
            lacking.append(Shortcoming("nothing differs", True, f"the {what} is the same in all arms", "nothing is studied", f"give the arms another {what}"))
        if plan.factor in may_differ or alike or (plan.crosses_materials and what in ("product", "colour")):
            continue
        listed = _listed(plan.arms, [v or "none" for v in values])
        costs = f"a difference may come from the {what} as well as from the {plan.factor}"
        # materials are seldom sold in one colour: said, but it does not prevent an answer
        blocking = not (what == "colour" and plan.factor is StudiedFactor.MATERIAL)
        lacking.append(Shortcoming(f"{what} differs", blocking, f"{what} differs: {listed}", costs, fix))
    ages = [a.age_days for a in plan.arms if a.age_days is not None]
    if len(ages) > 1 and max(ages) - min(ages) > 14:
        listed = f"specimens were from {min(ages):.0f} to {max(ages):.0f} days old when they were tested"
        costs = "polymers age and take up water: part of a difference may be age"
        lacking.append(Shortcoming("age differs", False, listed, costs, "test all within two weeks of printing"))
    return lacking


_SAME_MATERIAL = (StudiedFactor.SETTING, StudiedFactor.TREATMENT, StudiedFactor.PRINTER, StudiedFactor.RIG)


def _but(*without: StudiedFactor) -> tuple[StudiedFactor, ...]:
    return tuple(f for f in StudiedFactor if f not in without)


_ALIKE: tuple[tuple[str, str, Callable[[Printing], str], tuple[StudiedFactor, ...], str], ...] = (
    ("printer differs", "printer", lambda b: b.printer, _but(StudiedFactor.PRINTER), "print every arm on each printer, or all on one"),
    ("nozzle differs", "nozzle", lambda b: b.nozzle, _but(StudiedFactor.PRINTER), "print all through one nozzle"),
    ("program differs", "program that prepared the file", lambda b: b.program, tuple(StudiedFactor), "prepare all files with one program"),
    ("lot differs", "lot", lambda b: b.lot, _SAME_MATERIAL, "print all arms from one lot"),
    (
        "moisture differs", "moisture state", lambda b: b.moisture, _but(StudiedFactor.TREATMENT),
        "dry all alike before printing",
    ),
)  # fmt: skip
"""What is to be the same in all batches: its name, how it is called, where it is found, in studies of what it matters, and the mending."""


def _tied(plan: StudyPlan) -> list[Shortcoming]:
    """How the batches were printed: what goes along with the arms cannot be told from them."""
    lacking = []
    if len(plan.arms) > 1 and all(a.batches for a in plan.arms):
        for name, what, of, matters, fix in _ALIKE:
            if plan.factor not in matters:
                continue
            # where it is not known, or of no matter, nothing is said of it
            known = [(a, counts) for a in plan.arms if (counts := Counter(value for b in a.batches if (value := of(b))))]
            if what == "lot" and plan.crosses_materials:
                # each material has lots of its own: they are to be the same for all of its arms
                unlike = first_unlike([((a.product, a.colour), frozenset(counts)) for a, counts in known])
                known = [(a, counts) for a, counts in known if (a.product, a.colour) == unlike]
            if len({frozenset(counts) for _, counts in known}) > 1:
                listed = _listed([a for a, _ in known], [and_words(sorted(counts)) for _, counts in known])
                costs = f"a difference may come from the {what} as well as from the {plan.factor}"
                lacking.append(Shortcoming(name, True, f"{what} differs: {listed}", costs, fix))
            elif (share := _unevenly_shared([counts for _, counts in known])) > _UNEVEN:
                listed = _listed([a for a, _ in known], [", ".join(f"{value} × {n}" for value, n in sorted(counts.items())) for _, counts in known])
                costs = f"{100 * share:.0f} % of what one {what} does differently is in the difference between arms"
                lacking.append(Shortcoming(name, True, f"{what} shared out unevenly: {listed}", costs, fix))
        lacking += _tied_to_day(plan)
        rooms = [[b.ambient for b in a.batches if b.ambient is not None] for a in plan.arms]
        if all(rooms):
            means = [sum(r) / len(r) for r in rooms]
            if max(means) - min(means) > 4:
                listed = _listed(plan.arms, [f"{m:.0f} °C" for m in means])
                lacking.append(
                    Shortcoming(
                        "room differs",
                        False,
                        f"the room differed: {listed}",
                        "warping and layer adhesion follow the room",
                        "print every arm on warm and cold days",
                    )
                )
    mixed = [a.name for a in plan.arms if len({b.lot for b in a.batches} - {""}) > 1]
    if mixed:
        listed = f"{and_words(mixed)}: printed from several lots"
        lacking.append(Shortcoming("lots mixed", False, listed, "lots differ; that widens the interval", "print an arm from one lot"))
    return lacking


def _unevenly_shared(counts: Sequence[Counter[str]]) -> float:
    """How much of its batches one arm has elsewhere than another one, at most: 0 where all share them out alike, 1 where they share none."""
    shares = [{value: n / own.total() for value, n in own.items()} for own in counts]
    return max((1 - sum(min(p, b.get(value, 0.0)) for value, p in a.items()) for a, b in combinations(shares, 2)), default=0.0)


def _tied_to_day(plan: StudyPlan) -> list[Shortcoming]:
    """Arms of which one was done before another was begun: what changes with time cannot be told from them.

    Days that alternate (one arm on the first and third, another on the second and fourth) are scatter between batches.
    """
    days = {a.name: sorted({b.day for b in a.batches} - {""}) for a in plan.arms}
    if not all(days.values()):
        return []
    apart = next(((a, b) for a in days for b in days if days[a][-1] < days[b][0]), None)
    if apart is None:
        return []
    before = [a for a in days if days[a][-1] < days[apart[1]][0]]
    after = [b for b in days if days[b][0] > days[apart[0]][-1]]
    return [
        Shortcoming(
            "tied to day", True, f"{and_words(before)} printed on earlier days than {and_words(after)}",
            "the weather, the room and the state of the printer on those days are part of the difference", "print every arm on at least two days, in turn",
        )
    ]  # fmt: skip


def _batches(plan: StudyPlan) -> list[Shortcoming]:
    once = [a.name for a in plan.arms if len(a.batches) == 1]
    if not once or not any(n > 1 for n in plan.replicates.values()):
        return []
    return [
        Shortcoming(
            "one batch", False, f"one batch only of {and_words(once)}" if len(once) < len(plan.arms) else "one batch only of each arm",
            "verdicts are about these prints: what differs from print to print is in no interval",
            "print each arm in two batches, in turn with the others",
        )
    ]  # fmt: skip


def _outside(plan: StudyPlan) -> list[Shortcoming]:
    found = []
    for arm in plan.arms:
        for name, (low, high) in arm.window.items():
            value = arm.settings.get(name)
            if isinstance(value, str | bool) or value is None:
                continue
            if (low is not None and value < low) or (high is not None and value > high):
                label, unit = plan.labels.get(name, (name.replace("_", " "), ""))
                told = f"{arm.name}: {label} {_shown(value, unit)}, and its maker has {_range(low, high)} {unit}".rstrip()
                costs = "what is seen may be the fault of the setting, not of the material"
                found.append(Shortcoming("outside window", False, told, costs, f"print it within {_range(low, high)} {unit}".rstrip()))
    return found


def differing_settings(of_arms: Sequence[Mapping[str, Value]]) -> list[str]:
    """The settings in which arms differ, one that is not said by some among them."""
    names = dict.fromkeys(n for settings in of_arms for n in settings)
    return [n for n in names if len({settings.get(n) for settings in of_arms}) > 1]


def _listed(arms: Sequence[PlannedArm], values: Sequence[str]) -> str:
    """Which arms have which value: the arms of one value together."""
    groups: dict[str, list[str]] = {}
    for arm, value in zip(arms, values, strict=True):
        groups.setdefault(value, []).append(arm.name)
    shown = [f"{value} ({', '.join(names[:3])}{f' and {len(names) - 3} more' if len(names) > 3 else ''})" for value, names in groups.items()]
    return "; ".join(shown[:4]) + (f"; and {len(shown) - 4} more" if len(shown) > 4 else "")


def _shown(value: Value | None, unit: str) -> str:
    return "not said" if value is None else value_words(value, unit)


def _range(low: float | None, high: float | None) -> str:
    if low is None or high is None:
        return f"at least {low:g}" if low is not None else f"at most {high:g}"
    return f"{low:g} to {high:g}"
