"""What contradicts other results of the same material: its own history, other colours of the product, and what its maker says."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from sqlalchemy import select, tuple_
from sqlalchemy.orm import Session

from assayer.core.methods.vocabulary import Bound
from assayer.core.plan.study_plan import StudiedFactor
from assayer.core.quantities.words import in_text
from assayer.core.stats.claimed import ClaimVerdict
from assayer.core.stats.unlike import differs_beyond_batches
from assayer.core.stats.verdicts import Margin
from assayer.services.findings.claims import MEASURED_BY, judge_claim, named_in
from assayer.services.findings.doubt import Doubt, apart_words
from assayer.services.findings.doubt_views import DoubtKind
from assayer.services.findings.earlier import runs_of
from assayer.services.rigs.margins import margins_by_quantity
from assayer.services.studies.evidence_groups import Evidence, differences_from
from assayer.services.studies.history import MeasuredGroup, groups_of
from assayer.store.models import Arm, Claim, Material, Result, Study, Test, Variant


@dataclass(frozen=True, slots=True)
class History:
    """What was measured of the materials of a study, in any study, and of what they are compared with.

    Attributes
    ----------
    materials : mapping of id to Material
        Those of the study, the other colours of their products, and those that claims name.
    groups : mapping of material id to MeasuredGroups
    variants : mapping of arm id to (sheet, treatment)
    tests : mapping of test id to Test
    procedures : mapping of (test, rig version, quantity) to procedures
    claims : sequence of Claim
    margins : mapping of quantity to Margin
        Those that the lab has set itself.
    """

    materials: Mapping[str, Material] = field(default_factory=dict)
    groups: Mapping[str, Sequence[MeasuredGroup]] = field(default_factory=dict)
    variants: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    tests: Mapping[str, Test] = field(default_factory=dict)
    procedures: Mapping[tuple[str, str, str], frozenset[str]] = field(default_factory=dict)
    claims: Sequence[Claim] = ()
    margins: Mapping[str, Margin] = field(default_factory=dict)


def read_history(session: Session, arms: Sequence[Arm], evidence: Sequence[Evidence]) -> History:
    own = {a.variant.material_id: a.variant.material for a in arms}
    line = {(m.maker, m.product) for m in own.values()}
    colours = session.scalars(select(Material).where(tuple_(Material.maker, Material.product).in_(line))).all()
    materials = {m.id: m for m in colours} | own
    measured = {e.quantity for e in evidence}
    claimed = [name for name, by in MEASURED_BY.items() if any((e.quantity, e.test.orientation) in by for e in evidence)]
    claims = session.scalars(
        select(Claim).where(Claim.material_id.in_(materials), Claim.quantity.in_(claimed), Claim.retracted_at.is_(None)).order_by(Claim.entered_at, Claim.id)
    ).all()
    references = [c.reference for c in claims if c.reference]
    if references:
        everything = session.scalars(select(Material)).all()
        materials |= {m.id: m for reference in references for m in named_in(reference, everything)}
    starts = {spec.starts for e in evidence if (spec := e.method.quantity(e.quantity)).starts}
    groups = groups_of(session, sorted(materials), [Result.quantity.in_(measured | starts)])
    seen = [g.view for of in groups.values() for g in of]
    if not seen:
        return History(materials, groups, claims=claims)
    found = select(Arm.id, Variant.sheet_id, Variant.treatment).join(Variant, Variant.id == Arm.variant_id).where(Arm.id.in_({v.arm_id for v in seen}))
    variants = {arm_id: (sheet, treatment) for arm_id, sheet, treatment in session.execute(found)}
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.id.in_({v.test_id for v in seen})))}
    procedures, _ = runs_of(session, tests, measured)
    return History(materials, groups, variants, tests, procedures, claims, margins_by_quantity(session) if claims else {})


def doubts_of_history(study: Study, evidence: Evidence, history: History, names: Mapping[str, str]) -> Iterator[Doubt]:
    """Arms that differ from earlier results of the same material, or from another colour of the product, printed and tested alike."""
    spec = evidence.method.quantity(evidence.quantity)
    if spec.graded:
        return
    for kind, arm, group in _to_compare(study, evidence, history):
        own = evidence.groups()[arm.id]
        margin = evidence.margin.absolute(group.summary)
        ratio = None if evidence.batch_ratio is None else evidence.batch_ratio.ratio
        others = sum(k is kind for k, *_ in _to_compare(study, evidence, history))
        if margin is None or not differs_beyond_batches(own, group.summary, margin, ratio, others):
            continue
        relative = own.mean / group.summary.mean - 1 if spec.ratio_scale and group.summary.mean > 0 else None
        apart = apart_words(relative, own.mean < group.summary.mean)
        is_colour = kind is DoubtKind.COLOUR
        other = history.materials[_material_of(group, history)]
        against = f"{other.colour} of the same product" if is_colour else "its own earlier result"
        where = "" if group.view.study_id == study.id else f" in “{group.view.study}”"
        check_spool = "weigh the spool and compare lot, moisture and age; dry it, print and test again"
        yield Doubt(
            kind, f"{arm.id} {group.view.arm_id}", f"{names[arm.id]} is {apart} {against}{where}, printed and tested alike",
            "print and test both again in one study: pigment or moisture may differ" if is_colour else check_spool,
            evidence.test.id, evidence.quantity, (arm.id,), (), (arm.id,), arm.variant.material_id, spool_id=arm.spool_id,
        )  # fmt: skip


def _to_compare(study: Study, evidence: Evidence, history: History) -> list[tuple[DoubtKind, Arm, MeasuredGroup]]:
    """Arms with the groups that should be like them: the same sheet, treatment, shape, procedure and rig, no bounds."""
    pairs = []
    for arm in evidence.arms:
        own = evidence.groups().get(arm.id)
        if own is None or _has_bounds(evidence, arm.id):
            continue
        material, variant = arm.variant.material, (arm.variant.sheet_id, arm.variant.treatment)
        for material_id, groups in history.groups.items():
            other = history.materials[material_id]
            if (other.maker, other.product) != (material.maker, material.product):
                continue
            is_same = material_id == material.id
            for group in groups:
                elsewhere = group.view.study_id != study.id
                wanted = elsewhere if is_same else (elsewhere or study.studied_factor != StudiedFactor.COLOUR) and group.view.arm_id != arm.id
                # of two arms of one study the later one is compared with the earlier
                if not elsewhere and wanted:
                    wanted = group.view.test_id == evidence.test.id and arm.position > _position(evidence, group.view.arm_id)
                if wanted and history.variants.get(group.view.arm_id) == variant and _alike(evidence, arm.id, group, history):
                    pairs.append((DoubtKind.HISTORY if is_same else DoubtKind.COLOUR, arm, group))
    return pairs


def _position(evidence: Evidence, arm_id: str) -> int:
    return next((a.position for a in evidence.arms if a.id == arm_id), -1)


def _has_bounds(evidence: Evidence, arm_id: str) -> bool:
    return any(d.bound != Bound.EXACT for d in evidence.counted(arm_id))


def _alike(evidence: Evidence, arm_id: str, group: MeasuredGroup, history: History) -> bool:
    v = group.view
    test = history.tests[v.test_id]
    if (v.quantity, test.method, test.orientation) != (evidence.quantity, evidence.test.method, evidence.test.orientation) or v.at_least or v.at_most:
        return False
    measured = (history.procedures.get((v.test_id, v.rig_version_id, v.quantity), frozenset()), v.rig_version_id, v.end)
    return not differences_from(test, measured, evidence.test, evidence.keys[arm_id])


def _material_of(group: MeasuredGroup, history: History) -> str:
    return next(key for key, groups in history.groups.items() if group in groups)


def doubts_of_claims(evidence: Evidence, history: History, names: Mapping[str, str]) -> Iterator[Doubt]:
    """Claims of makers that the results of a test contradict."""
    for arm in evidence.arms:
        material = arm.variant.material
        own = [g for g in history.groups.get(material.id, []) if (g.view.test_id, g.view.arm_id) == (evidence.test.id, arm.id)]
        line = [c for c in history.claims if _of_line(history.materials.get(c.material_id), material)]
        for claim in line:
            verdicts = judge_claim(claim, own, history.groups, list(history.materials.values()), history.margins)
            contradicted = [v for v in verdicts if v.verdict == ClaimVerdict.CONTRADICTED]
            if contradicted:
                v = contradicted[0]
                # as a share of what is claimed: units are shown as each person chooses them
                measured = f"measured {v.value:.3g} times that of {v.against}" if v.against else f"measured {_share_of_claim(claim, v.value)} that"
                yield Doubt(
                    DoubtKind.CLAIM, f"{arm.id} {claim.id}", f"{names[arm.id]}: the maker says “{claim.text}”; {in_text(v.measured.label)} {measured}",
                    "print it within the maker's window and by the method that the maker names, and test again", evidence.test.id, evidence.quantity,
                    (arm.id,), (), (arm.id,), material.id,
                )  # fmt: skip


def _share_of_claim(claim: Claim, measured: float) -> str:
    relative = measured / claim.value - 1 if claim.value and claim.value > 0 else None
    return apart_words(relative, claim.value is None or measured < claim.value)


def _of_line(claimed: Material | None, material: Material) -> bool:
    return claimed is not None and (claimed.maker, claimed.product) == (material.maker, material.product)
