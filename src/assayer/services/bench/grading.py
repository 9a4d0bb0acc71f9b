"""Grading: the prints of a test laid out, with the grades that each was given by whom."""

from __future__ import annotations

from sqlalchemy import select

from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.graded import GradedProtocol
from assayer.core.methods.traits import TRAITS
from assayer.core.methods.vocabulary import Validity
from assayer.services.bench.grading_views import GradedPrint, GradedTrait, GradeView, GradingView
from assayer.services.bench.queue import queue
from assayer.services.bench.reductions import standing
from assayer.services.photos.photos import photos_of
from assayer.services.rigs.rigs import newest_versions
from assayer.services.unit import Workspace, find
from assayer.store.models import Reading, Run, Study, Test


def grading(workspace: Workspace, test_id: str, blind: bool) -> GradingView:
    """What is graded, and how far it is.

    Raises
    ------
    EntryError
        If the test is not one that is graded.
    """
    with workspace.read() as session:
        test = find(session, Test, test_id)
        method = find_method(test.method)
        protocol = method.protocol.read(test.protocol, method.label)
        if not isinstance(protocol, GradedProtocol):
            raise EntryError(f"{method.label} is measured, not graded", "test_id")
        study = find(session, Study, test.study_id)
        runs = {r.id: r for r in session.scalars(select(Run).where(Run.test_id == test_id, Run.retracted_at.is_(None)))}
        by_name = {t.name: t for t in TRAITS}
        places = {method.graded_by(f"place@{n}"): n for n in protocol.traits}
        traits = [
            GradedTrait(name=t.name, label=t.label, steps=list(t.steps), better=t.better, caution=t.caution, place_field=field)
            for t, field in ((by_name[n], field) for field, n in places.items())
        ]
        by_run: dict[str, list[Reading]] = {}
        for reading in session.scalars(select(Reading).where(Reading.run_id.in_(runs))):
            by_run.setdefault(reading.run_id, []).append(reading)
        rigs = [v.id for v in newest_versions(session) if test.method in v.rig.methods]
    items = queue(workspace, test_id, "grading", blind).items
    with workspace.read() as session:
        of_print, of_run = photos_of(session, "specimen", [i.specimen_id for i in items]), photos_of(session, "run", list(runs))
    prints = []
    for item in items:
        run = next((r for r in runs.values() if r.specimen_id == item.specimen_id), None)
        own = standing(by_run.get(run.id, [])) if run is not None else []
        prints.append(
            GradedPrint(
                specimen_id=item.specimen_id,
                code=item.code,
                run_id=None if run is None else run.id,
                complete=run is not None and run.complete,
                left_out=run is not None and run.validity == Validity.LEFT_OUT,
                arm=item.arm,
                grades=[_given(r, r.field) for r in own if r.field in by_name],
                places=[_given(r, places[r.field]) for r in own if r.field in places],
                photos=[*of_print.get(item.specimen_id, []), *(of_run.get(run.id, []) if run is not None else [])],
            )
        )
    viewing = ", ".join(words for words in (protocol.distance, protocol.light) if words != "not said")
    return GradingView(
        test_id=test_id, study_id=study.id, study=study.title, orientation=test.orientation, ordered=protocol.ordered, viewing=viewing, traits=traits,
        prints=prints, rigs=rigs,
    )  # fmt: skip


def _given(reading: Reading, trait: str) -> GradeView:
    return GradeView(id=reading.id, trait=trait, grader=reading.about or "", grade=reading.value)
