"""What the verdicts of a test say, in a few sentences that can be copied."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from enum import StrEnum

from assayer.core.stats.relative import Provisional, Relative
from assayer.core.stats.verdicts import GoodSide, Verdict, VerdictWord


class Says(StrEnum):
    """What a sentence says of the arms it names."""

    LEADS = "leads"
    REFERENCE_LEADS = "reference leads"
    BETTER = "better"
    WORSE = "worse"
    ALIKE = "alike"
    UNDECIDED = "undecided"
    PROVISIONAL = "provisional"


@dataclass(frozen=True, slots=True)
class ArmResult:
    """One arm with its verdict; `n` the smaller of its count and the reference's, `at_least` and `at_most` where its mean is a bound."""

    name: str
    n: int
    mean: float
    verdict: Verdict
    relative: Relative | None = None
    provisional: Provisional | None = None
    at_least: bool = False
    at_most: bool = False


@dataclass(frozen=True, slots=True)
class Comparison:
    """What is compared: the quantity, the reference, and the pairs of arms whose joint interval includes 0."""

    label: str
    unit: str
    good_side: GoodSide
    reference: str
    alike_pairs: Collection[frozenset[str]] = frozenset()
    margin_share: float | None = None


@dataclass(frozen=True, slots=True)
class Sentence:
    says: Says
    text: str


def answer(of: Comparison, arms: Sequence[ArmResult]) -> list[Sentence]:
    """The sentences: what leads and by how much, what else differs, what is alike, what is undecided and would be decided by how many more.

    Parameters
    ----------
    of : Comparison
    arms : sequence of ArmResult
        All but the reference, those without a result left out.
    """
    better = _sorted(of, [a for a in arms if a.verdict.word in (VerdictWord.BETTER, VerdictWord.HIGHER)])
    worse = _sorted(of, [a for a in arms if a.verdict.word in (VerdictWord.WORSE, VerdictWord.LOWER)])
    alike = [a.name for a in arms if a.verdict.word is VerdictWord.EQUIVALENT]
    undecided = [a for a in arms if a.verdict.word is VerdictWord.UNDECIDED]
    sentences = []
    if better:
        sentences.append(Sentence(Says.LEADS, _lead(of, better)))
        sentences += [Sentence(Says.BETTER, f"{a.name} {_is_or_has(a)} {_amount(of, a)}.") for a in better[1:]]
    elif worse and not undecided and not alike:
        sentences.append(Sentence(Says.REFERENCE_LEADS, f"{of.reference} has the {_most(of)} {of.label} of all."))
    for i, a in enumerate(worse):
        than = "" if better or i else f" than {of.reference}"
        sentences.append(Sentence(Says.WORSE, f"{a.name} {_is_or_has(a)} {_amount(of, a)}{than}."))
    if alike:
        within = "" if of.margin_share is None else f" within {_percent(of.margin_share)}"
        both = f"{alike[0]} and {of.reference} are alike" if len(alike) == 1 else f"{_listed(alike)} are each alike with {of.reference}"
        sentences.append(Sentence(Says.ALIKE, f"{both}{within}."))
    if undecided:
        sentences.append(Sentence(Says.UNDECIDED, _open(of, undecided)))
    for a in arms:
        if a.provisional is not None and a.verdict.word in (VerdictWord.NONE, VerdictWord.UNDECIDED):
            text = f"{a.name}: {_provisional(of, a.provisional)}, provisional: usual scatter of this test, n {a.n}."
            sentences.append(Sentence(Says.PROVISIONAL, text))
    if sentences and sentences[0].says not in (Says.LEADS, Says.REFERENCE_LEADS):
        sentences[0] = Sentence(sentences[0].says, f"{of.label}: {sentences[0].text}")
    return [Sentence(s.says, s.text[:1].upper() + s.text[1:]) for s in sentences]


def _sorted(of: Comparison, arms: Sequence[ArmResult]) -> list[ArmResult]:
    """The best first; near a target by how they were judged against the reference."""
    return sorted(arms, key=lambda a: a.mean if of.good_side is GoodSide.LOWER else abs(a.verdict.difference) if of.good_side is GoodSide.NEAR else -a.mean)


def _most(of: Comparison) -> str:
    return {GoodSide.LOWER: "lowest", GoodSide.NEAR: "best"}.get(of.good_side, "highest")


def _lead(of: Comparison, better: Sequence[ArmResult]) -> str:
    first = better[0]
    text = f"{first.name} has the {_most(of)} {of.label}: {_amount(of, first)} than {of.reference}."
    same = [a.name for a in better[1:] if frozenset((first.name, a.name)) in of.alike_pairs]
    return f"{text} It cannot be told from {_listed(same, 'or')}." if same else text


def _is_or_has(a: ArmResult) -> str:
    """It has 20 % more, but is 6 °C higher."""
    return "is" if a.relative is None else "has"


def _amount(of: Comparison, a: ArmResult) -> str:
    """ "50 % more [32, 67]", in the quantity's unit where a percentage has no meaning."""
    sign = "at least " if (a.at_least if a.verdict.difference > 0 else a.at_most) else ""
    if a.relative is not None:
        return f"{sign}{_relative(a.relative)} {'more' if a.verdict.difference > 0 else 'less'}{_relative_ends(a.relative)}"
    word = "higher" if a.verdict.difference > 0 else "lower"
    ci = a.verdict.ci95
    ends = "" if ci is None else f" [{', '.join(_figure(v) for v in sorted((ci.low, ci.high) if a.verdict.difference > 0 else (-ci.low, -ci.high)))}]"
    return f"{sign}{_figure(abs(a.verdict.difference))} {of.unit}".rstrip() + f" {word}{ends}"


def _relative(r: Relative) -> str:
    return _percent(abs(r.factor - 1))


def _relative_ends(r: Relative) -> str:
    """The interval in percent, in the direction that the sentence names."""
    if r.ci95 is None:
        return ""
    sign = 100 if r.factor >= 1 else -100
    return f" [{', '.join(_end(v) for v in sorted((sign * (r.ci95.low - 1), sign * (r.ci95.high - 1))))}]"


def _provisional(of: Comparison, p: Provisional) -> str:
    if p.relative is not None:
        return f"{_relative(p.relative)} {'more' if p.relative.factor >= 1 else 'less'}{_relative_ends(p.relative)} than {of.reference}"
    low, high = sorted((p.ci95.low, p.ci95.high) if p.difference >= 0 else (-p.ci95.low, -p.ci95.high))
    size = f"{_figure(abs(p.difference))} {of.unit}".rstrip()
    return f"{size} {'higher' if p.difference >= 0 else 'lower'} [{_figure(low)}, {_figure(high)}] than {of.reference}"


def _open(of: Comparison, undecided: Sequence[ArmResult]) -> str:
    known = [a.verdict.more_specimens for a in undecided if a.verdict.more_specimens is not None]
    text = f"{_listed([a.name for a in undecided])} may be like {of.reference} or not"
    if not known:
        return f"{text}."
    some = "" if len(known) == len(undecided) else " for some"
    return f"{text}: {max(known)} more of each would tell{some}."


def _listed(names: Sequence[str], word: str = "and") -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} {word} {names[-1]}"


def _end(percent: float) -> str:
    """Whole percent; near 0 with a digit more, so that its side can be seen."""
    return (f"{percent:.1f}" if abs(percent) < 0.95 else f"{percent:.0f}").replace("-", "−")


def _percent(share: float) -> str:
    percent = 100 * share
    return f"{percent:.0f} %" if percent >= 9.95 or percent == round(percent) else f"{percent:.1f} %"


def _figure(value: float) -> str:
    """Three significant digits, without an exponent."""
    if value == 0 or not math.isfinite(value):
        return f"{value:g}".replace("-", "−")
    digits = max(0, 2 - math.floor(math.log10(abs(value))))
    return f"{value:.{digits}f}".replace("-", "−")
