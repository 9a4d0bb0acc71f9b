"""What an entry is held against before it is kept: the shape, its siblings, the course so far, what the polymer can be."""

from __future__ import annotations

import statistics
from collections.abc import Mapping, Sequence
from dataclasses import replace

from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError, Question
from assayer.core.methods.base import Method
from assayer.core.methods.inputs import Inputs
from assayer.core.methods.results import Reduction
from assayer.core.methods.steps import CLOCK_EVENTS
from assayer.core.methods.unread import unread
from assayer.core.methods.vocabulary import Bound, Sign, Validity
from assayer.core.quantities.slips import likely_number, question_number
from assayer.core.stats.groups import mean_of
from assayer.services.bench.reductions import Typed
from assayer.services.bench.views import CheckView
from assayer.services.declarations import main_of
from assayer.store.models import Arm, Batch, Material, Result, Rig, RigVersion, Run, Slot, Specimen, Test, Variant

_NEAR = 0.2
"""A dimension this far (relative) from the shape's is asked about."""
_APART = 0.25
"""An entry this far (relative) from the others of its arm is pointed out when not blind."""
_BACK_STEPS = 3.0
"""A course that runs back by more steps is asked about."""
_JUMP = 1.0
"""So is one that grows at once by more than this share of all it did before."""


def questions_about(method: Method, inputs: Inputs, typed: Sequence[Typed], reduction: Reduction | None, polymer: str | None) -> list[Question]:
    """What is hardly meant as typed, with the likely meaning where a slip explains it.

    `typed` are the entries that are new; `inputs` hold all of the run.
    """
    found = [*_about_dimensions(method, inputs, typed), *_about_course(method, inputs, typed)]
    # a slip in a dimension spoils every result: one question is enough
    if not found and reduction is not None:
        found += _about_results(method, inputs, typed, reduction, polymer)
    return found


def question_at_end(method: Method, inputs: Inputs, reduction: Reduction | None) -> list[Question]:
    """Whether a run may end here, where it lacks something that is planned: asked when it is accepted, not while it is typed."""
    lacking = unread(method, inputs, reduction)
    if lacking is None:
        return []
    return [Question(f"end={lacking.words}", lacking.field, f"{lacking.words}: end here?", confirm="End here")]


def _key(t: Typed) -> str:
    return f"{t.field}-{t.position}"


def _about_dimensions(method: Method, inputs: Inputs, typed: Sequence[Typed]) -> list[Question]:
    nominals = inputs.shape.nominals if inputs.shape is not None else {}
    questions = []
    # what is asked about by itself is no measure for the others
    odd = {(t.field, t.position) for t in typed if t.field not in CLOCK_EVENTS and _off(_nominal(method, t, nominals), t.value)}
    for t in typed:
        if t.field in CLOCK_EVENTS:
            continue
        field = method.field(t.field)
        nominal = _nominal(method, t, nominals)
        unit = field.of_dimension.base
        if nominal is not None:
            asked = question_number(t.field, t.value, (1 - _NEAR) * nominal, (1 + _NEAR) * nominal, field.label, unit)
            if asked is not None:
                what = f"{t.about}: " if t.about else ""
                text = (
                    f"{what}{asked.text}"
                    if asked.likely
                    else f"{what}{field.label} {t.value:g} {unit}, but the shape has {nominal:g} {unit}: is it the right shape?"
                )
                questions.append(replace(asked, key=f"{_key(t)}={t.value:.10g}", text=text, row=t.position))
                continue
        others = [v for i, v in _positions(inputs, t.field, t.about) if i != t.position and (t.field, i) not in odd]
        # what may lie on either side of nothing has no share of its siblings to be off by
        if field.usual > 1 and not field.timed and field.sign is not Sign.EITHER and others:
            # of three or more the middle of all: one slip must not cast doubt on those beside it
            middle = statistics.median([*others, t.value]) if len(others) > 1 else others[0]
            if middle > 0 and abs(t.value - middle) > field.scatter * middle and (len(others) > 1 or nominal is not None):
                meant = likely_number(t.value, (1 - field.scatter) * middle, (1 + field.scatter) * middle)
                text = f"{field.label} {t.value:g} {unit}, but the other{'s are' if len(others) > 1 else ' is'} {', '.join(f'{v:g}' for v in others)}: "
                text += f"was {meant:g} {unit} meant?" if meant is not None else "is it right?"
                questions.append(Question(f"{_key(t)}={t.value:.10g}", t.field, text, f"{meant:g}" if meant is not None else None, True, t.position))
    return questions


def _nominal(method: Method, t: Typed, nominals: Mapping[str, float]) -> float | None:
    """The length that an entry should be near: the shape's, or that of the feature it is of."""
    field = method.field(t.field)
    if field.by_about:
        return method.nominal(field, t.about)
    return nominals.get(field.nominal or "")


def _off(nominal: float | None, value: float) -> bool:
    return nominal is not None and not (1 - _NEAR) * nominal <= value <= (1 + _NEAR) * nominal


def _positions(inputs: Inputs, name: str, about: str | None) -> list[tuple[int, float]]:
    return [(e.position, e.value) for e in inputs.entries if e.field == name and e.about == about]


def _about_course(method: Method, inputs: Inputs, typed: Sequence[Typed]) -> list[Question]:
    """A reading over time that runs backwards or jumps."""
    questions = []
    for name in dict.fromkeys(t.field for t in typed if t.field not in CLOCK_EVENTS):
        field = method.field(name)
        # grades have no course, and an oven may be opened
        if not field.timed or field.dimension in ("grade", "temperature"):
            continue
        step = inputs.step(name)
        for t in (x for x in typed if x.field == name):
            course = [e for e in inputs.timed(name) if e.about == t.about]
            at = next((i for i, e in enumerate(course) if e.position == t.position and e.load == t.load), None)
            if at is None:
                continue
            # a lower weight was on before: within one load a course grows
            before = [e for e in course[:at] if e.load == t.load] if field.by_load else course[:at]
            if not before:
                continue
            label = f"{field.label}, {t.about}" if t.about else field.label
            # sizes may shrink as well as grow
            back = 0.05 * before[-1].value if field.by_about else _BACK_STEPS * step
            asked = _odd(t, [e.value for e in before], step, back, label, field.of_dimension.base, falling=field.counts_from == "load_off")
            if asked is not None:
                questions.append(asked)
    return questions


def _odd(t: Typed, before: list[float], step: float, back: float, label: str, unit: str, falling: bool) -> Question | None:
    last = before[-1]
    gone = max(before) - min(before)
    change = last - t.value if falling else t.value - last
    room = max(_JUMP * gone, 20 * step, 0.05 * abs(last))
    if -back <= change <= room:
        return None
    meant = likely_number(t.value, last - room, last) if falling else likely_number(t.value, last - step, last + room)
    what = "runs backwards" if change < 0 else "jumps"
    text = f"{label} {t.value:g} {unit} {what}: it was {last:g} {unit} before. " + (f"Was {meant:g} {unit} meant?" if meant is not None else "Is it right?")
    return Question(f"{_key(t)}={t.value:.10g}", t.field, text, f"{meant:g}" if meant is not None else None, True, t.position)


def _about_results(method: Method, inputs: Inputs, typed: Sequence[Typed], reduction: Reduction, polymer: str | None) -> list[Question]:
    for result in reduction.results:
        spec = method.quantity(result.key)
        span = spec.plausible_for(polymer)
        if span is None or span[0] <= result.value <= span[1]:
            continue
        of = f" for {polymer}" if polymer and span != spec.plausible else ""
        meant = _slipped(method, inputs, typed, result.key, span)
        text = f"{spec.label} {result.value:.4g} {spec.unit} is outside {span[0]:g} … {span[1]:g} {spec.unit}{of}: "
        if meant is None:
            field = next((t.field for t in typed if t.field not in CLOCK_EVENTS), "")
            return [Question(f"{result.key}={result.value:.6g}", field, text + "check the readings and their units")]
        t, value = meant
        field_spec = method.field(t.field)
        text += f"was {field_spec.label} {value:g} {field_spec.of_dimension.base} meant?"
        return [Question(f"{result.key}={result.value:.6g}", t.field, text, f"{value:g} {field_spec.of_dimension.base}", True, t.position)]
    return []


def _slipped(method: Method, inputs: Inputs, typed: Sequence[Typed], key: str, span: tuple[float, float]) -> tuple[Typed, float] | None:
    """The one entry whose decimal mark, moved, makes the result plausible."""
    for t in typed:
        if t.field in CLOCK_EVENTS or (method.field(t.field).nominal is not None or method.field(t.field).by_about):
            continue
        for power in (1, 2, -1, 3, -2):
            moved = [replace(e, value=e.value / 10**power) if (e.field, e.position, e.load) == (t.field, t.position, t.load) else e for e in inputs.entries]
            try:
                result = method.reduce(replace(inputs, entries=moved)).get(key)
            except EntryError:
                continue
            if result is not None and span[0] <= result.value <= span[1]:
                return t, float(f"{t.value / 10**power:.10g}")
    return None


def checks_of(session: Session, method: Method, test: Test, inputs: Inputs, reduction: Reduction | None, specimen_id: str | None) -> list[CheckView]:
    """What is to be seen beside the result: scatter of the dimensions, and how far it lies from its siblings (unless blind)."""
    checks = []
    for field in method.fields():
        values = inputs.values(field.name)
        # lengths of either sign, such as lifts of corners, differ by nature
        if field.usual > 1 and not field.timed and field.sign is not Sign.EITHER and len(values) > 1 and mean_of(values) > 0:
            spread = (max(values) - min(values)) / mean_of(values)
            text = f"{field.label} spread {100 * spread:.1f} %"
            if spread <= field.scatter:
                checks.append(CheckView(level="fine", text=text))
            else:
                checks.append(CheckView(level="caution", text=text, field=field.name, position=_furthest(inputs, field.name)))
    main = None if reduction is None else reduction.get(main_of(test))
    if main is not None and not main.provisional and specimen_id is not None:
        others = _others_of_arm(session, method, test, specimen_id, inputs.outcome)
        mean = mean_of([value for value, _ in others]) if len(others) >= 2 else 0.0
        # a bound is no contradiction where the true value may lie on the other side of it
        own, theirs = (Bound.AT_LEAST, Bound.AT_MOST) if main.value < mean else (Bound.AT_MOST, Bound.AT_LEAST)
        explained = method.bound_of(main, inputs.outcome, Validity.COUNTS) is own or any(bound is theirs for _, bound in others)
        if mean != 0 and not explained and abs(main.value - mean) > _APART * abs(mean):
            apart = f"{100 * (main.value / mean - 1):+.0f}".replace("-", "−")
            checks.append(CheckView(level="caution", text=f"{apart} % from the mean of the other {len(others)} of this arm"))
    return checks


def _furthest(inputs: Inputs, name: str) -> int:
    """The position of the reading that is furthest from the middle one; of two, the later."""
    entries = sorted((e for e in inputs.entries if e.field == name), key=lambda e: e.position)
    middle = statistics.median(e.value for e in entries)
    return max(entries, key=lambda e: (abs(e.value - middle), e.position)).position


def on_another_rig(session: Session, specimen_id: str, rig_version_id: str) -> CheckView | None:
    """Where rigs are studied: that a specimen stands for another rig than the one it is measured on."""
    here = select(RigVersion.rig_id).where(RigVersion.id == rig_version_id).scalar_subquery()
    own = (
        select(Rig.name)
        .join(Arm, Arm.rig_id == Rig.id)
        .join(Slot, Slot.arm_id == Arm.id)
        .join(Specimen, Specimen.slot_id == Slot.id)
        .where(Specimen.id == specimen_id, Rig.id != here)
    )
    name = session.scalar(own)
    return None if name is None else CheckView(level="caution", text=f"it stands for {name}: measured on another rig it is shown apart, not averaged")


def _others_of_arm(session: Session, method: Method, test: Test, specimen_id: str, outcome: str | None) -> list[tuple[float, Bound]]:
    """The main results of the other specimens of an arm, of those that ended alike where ends are told apart."""
    own = select(Slot.arm_id).join(Specimen, Specimen.slot_id == Slot.id).where(Specimen.id == specimen_id).scalar_subquery()
    rows = session.execute(
        select(Result.value, Result.bound, Run.outcome)
        .join(Run, Run.id == Result.run_id)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Slot, Slot.id == Specimen.slot_id)
        .where(Result.test_id == test.id, Result.quantity == method.main, Slot.arm_id == own)
        .where(Run.validity != Validity.LEFT_OUT, Result.provisional.is_(False), Specimen.id != specimen_id)
    )
    end = method.end_apart(outcome)
    return [(value, Bound(bound)) for value, bound, ended in rows if method.end_apart(ended) == end]


def polymer_of(session: Session, specimen_id: str | None) -> str | None:
    """The polymer a specimen was printed of."""
    if specimen_id is None:
        return None
    return session.scalar(_POLYMER, {"specimen": specimen_id})


_POLYMER = (
    select(Material.polymer)
    .join(Variant, Variant.material_id == Material.id)
    .join(Batch, Batch.variant_id == Variant.id)
    .join(Specimen, Specimen.batch_id == Batch.id)
    .where(Specimen.id == bindparam("specimen"))
)
"""Made once: it is asked at every entry, and putting it together takes longer than asking it."""
