"""Studies: the list, and one with its arms and tests."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy import func, literal_column, select
from sqlalchemy.orm import Session

from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.results import QuantitySpec
from assayer.core.plan.fairness import differing_settings
from assayer.core.plan.study_plan import StudiedFactor
from assayer.core.settings.declared import setting, shown
from assayer.services.declarations import main_of, outcome_views, quantity_view, shape_view
from assayer.services.parts.shapes import shape_of, title_of
from assayer.services.stock.materials import material_view
from assayer.services.studies.evidence import arms_of
from assayer.services.studies.views import AmendmentView, ArmView, MarginKind, StudyItem, StudyPage, StudyRef, StudyView, TestView
from assayer.services.unit import Workspace, find
from assayer.services.views import QuantityView, SwatchView
from assayer.store.counting import count_if
from assayer.store.models import Amendment, Arm, Material, Printer, Rig, Run, Slot, Specimen, Spool, Study, Test, Variant


def list_studies(workspace: Workspace, limit: int, offset: int, put_away: bool = False) -> StudyPage:
    """Studies, newest first, with how far each has come; the same few queries however many there are.

    Those that were put away are listed only when they are asked for.
    """
    with workspace.read() as session:
        is_away = Study.put_away_at.is_not(None)
        counts = {away: count for away, count in session.execute(select(is_away, func.count()).group_by(is_away))}
        wanted = select(Study).where(Study.put_away_at.is_not(None) if put_away else Study.put_away_at.is_(None))
        studies = session.scalars(wanted.order_by(Study.created_at.desc(), Study.id).limit(limit).offset(offset)).all()
        ids = [s.id for s in studies]
        printed = select(Specimen.slot_id).where(Specimen.slot_id == Slot.id).exists()
        slots = session.execute(
            select(Arm.study_id, func.count(), count_if(printed)).join(Slot, Slot.arm_id == Arm.id).where(Arm.study_id.in_(ids)).group_by(Arm.study_id)
        )
        plans = {study_id: (count, done) for study_id, count, done in slots}
        done_runs = (
            select(Test.study_id, func.count(Specimen.slot_id.distinct()))
            .join(Run, Run.test_id == Test.id)
            .join(Specimen, Specimen.id == Run.specimen_id)
            .where(Test.study_id.in_(ids), Run.retracted_at.is_(None), Run.complete)
            .group_by(Test.study_id)
        )
        tested = {study_id: count for study_id, count in session.execute(done_runs)}
        swatches: dict[str, list[SwatchView]] = {}
        marks = (
            select(Arm.study_id, Arm.mark, Material.hex, Material.filler)
            .join(Variant, Variant.id == Arm.variant_id)
            .join(Material, Material.id == Variant.material_id)
            .where(Arm.study_id.in_(ids))
            .order_by(Arm.position)
        )
        for study_id, mark, colour, filler in session.execute(marks):
            swatches.setdefault(study_id, []).append(SwatchView(mark=mark, hex=colour, filled=filler is not None))
        items = [
            StudyItem(
                id=s.id,
                title=s.title,
                question=s.question,
                studied_factor=s.studied_factor,
                created_at=s.created_at,
                planned=plans.get(s.id, (0, 0))[0],
                printed=plans.get(s.id, (0, 0))[1],
                tested=tested.get(s.id, 0),
                swatches=swatches.get(s.id, []),
                put_away_at=s.put_away_at,
            )
            for s in studies
        ]
        return StudyPage(items=items, total=counts.get(put_away, 0), put_away=counts.get(True, 0), limit=limit, offset=offset)


def study_ref(study: Study) -> StudyRef:
    return StudyRef(id=study.id, title=study.title, reference_arm_id=study.reference_arm_id, revision=study.revision)


def get_study(workspace: Workspace, study_id: str) -> StudyView:
    """One study with its arms and tests."""
    with workspace.read() as session:
        return study_view(session, find(session, Study, study_id))


def study_view(session: Session, study: Study) -> StudyView:
    tests = session.scalars(select(Test).where(Test.study_id == study.id).order_by(Test.position))
    amended = session.scalars(select(Amendment).where(Amendment.study_id == study.id).order_by(Amendment.at, literal_column("amendments.rowid")))
    arms = arms_of(session, study.id)
    return StudyView(
        id=study.id,
        title=study.title,
        question=study.question,
        studied_factor=study.studied_factor,
        reference_arm_id=study.reference_arm_id,
        revision=study.revision,
        created_at=study.created_at,
        bounds_in=study.bounds_in,
        batches=study.batches,
        put_away_at=study.put_away_at,
        started_at=study.started_at,
        each_at_best=study.each_at_best,
        crosses_materials=study.crosses_materials,
        studied_settings=study.studied_settings,
        amendments=[AmendmentView.model_validate(a) for a in amended],
        arms=arm_views(session, arms, study),
        wanted_by=study.wanted_by,
        tests=[test_view(t) for t in tests],
    )


def reference_of(arms: Sequence[Arm], study: Study) -> Arm | None:
    """The arm that the others are held against."""
    return next((a for a in arms if a.id == study.reference_arm_id), None)


def narrowed_names(session: Session, arms: Sequence[Arm], study: Study) -> dict[str, str]:
    """The lot, printer or rig that each arm stands for, where that is what is studied; by its id."""
    factor = study.studied_factor
    if factor == StudiedFactor.LOT:
        of_spools = select(Spool.id, Spool.lot, Spool.code).where(Spool.id.in_([a.spool_id for a in arms if a.spool_id]))
        return {key: lot or code for key, lot, code in session.execute(of_spools)}
    if factor not in (StudiedFactor.PRINTER, StudiedFactor.RIG):
        return {}
    kind = Printer if factor == StudiedFactor.PRINTER else Rig
    ids = [key for a in arms if (key := a.printer_id if kind is Printer else a.rig_id)]
    return {key: name for key, name in session.execute(select(kind.id, kind.name).where(kind.id.in_(ids)))}


def arm_views(session: Session, arms: Sequence[Arm], study: Study) -> list[ArmView]:
    """The arms of a study, each with what of its settings (or which lot, printer or rig) tells it from the others."""
    narrowed, apart = narrowed_names(session, arms, study), settings_apart(arms)
    return [
        ArmView(
            id=arm.id,
            mark=arm.mark,
            treatment=arm.variant.treatment,
            material=material_view(arm.variant.material),
            settings=arm.variant.sheet.name,
            differs=apart[arm.id] | _stands_for(arm, narrowed),
            spool_id=arm.spool_id,
        )
        for arm in arms
    ]


def settings_apart(arms: Sequence[Arm]) -> dict[str, dict[str, str]]:
    """By arm, the settings in which these arms differ, by their short names, as they are shown."""
    own = {a.id: settings_of(a) for a in arms}
    differing = differing_settings(list(own.values()))
    chips = {n: s.chip if (s := setting(n)) else n for n in differing}
    return {a: {chips[n]: shown(n, values[n]) if n in values else "not said" for n in differing} for a, values in own.items()}


def _stands_for(arm: Arm, narrowed: Mapping[str, str]) -> dict[str, str]:
    ids = {"lot": arm.spool_id, "printer": arm.printer_id, "rig": arm.rig_id}
    return {word: narrowed[key] for word, key in ids.items() if key is not None and key in narrowed}


def settings_of(arm: Arm) -> dict[str, float | str | bool]:
    """What its sheet sets, as each begins."""
    return {name: held["value"] for name, held in arm.variant.sheet.values.items()}


def test_view(test: Test) -> TestView:
    method = find_method(test.method)
    return TestView(
        id=test.id,
        study_id=test.study_id,
        method=test.method,
        label=title_of(test),
        after=method.after_of(method.protocol.read(test.protocol, method.label)),
        orientation=test.orientation,
        shape=shape_view(shape_of(test)),
        protocol=method.protocol.read(test.protocol, method.label).as_dict(),
        rounds=method.in_rounds,
        replicates=test.replicates,
        spares=test.spares,
        margin=test.margin_value,
        target=test.target,
        margin_relative=test.margin_relative,
        outcomes=outcome_views(method, test.orientation, shape_of(test)),
        quantities=_quantities(method, main_of(test)),
        main=main_of(test),
        margin_kinds=_margin_kinds(method.quantity(main_of(test))),
    )


def _margin_kinds(quantity: QuantitySpec) -> list[MarginKind]:
    """In what a margin of this quantity can be said; grades have none."""
    if quantity.graded:
        return []
    return ["relative", "absolute"] if quantity.ratio_scale else ["absolute"]


def _quantities(method: Method, main: str) -> list[QuantityView]:
    """What a test yields; its main quantity under its own key, where it exists once a load or a time."""
    spec = method.quantity(main)
    return [quantity_view(spec, main) if q.name == main.partition("@")[0] else quantity_view(q) for q in method.quantities]
