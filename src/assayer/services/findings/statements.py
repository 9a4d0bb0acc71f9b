"""What people type, held against the results that it names."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from sqlalchemy import func, literal, select
from sqlalchemy.orm import Session

from assayer.core.methods.properties import property_of
from assayer.core.statements.check import CheckedStatement, MaterialResult, StatementVerdict, check_text
from assayer.core.stats.groups import Interval
from assayer.core.stats.verdicts import GoodSide
from assayer.services.findings.views import StatementsView, StatementView
from assayer.services.studies.history import MeasuredGroup, groups_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Material, Study, Test


def check_typed(workspace: Workspace, text: str, study_id: str | None = None) -> StatementsView:
    """The statements of a text about materials, each held against the results of one study: the one it is typed in, else the newest that has them."""
    with workspace.read() as session:
        if study_id is not None:
            find(session, Study, study_id)
        materials = session.scalars(select(Material).where(func.instr(literal(text.lower()), func.lower(Material.product)) > 0)).all()
        if not materials:
            return StatementsView(statements=[])
        by_study = _results(session, {m.id: m for m in materials})
        order = sorted(by_study, key=lambda key: key != study_id)
        return StatementsView(statements=[StatementView.model_validate(s) for s in _checked(text, [by_study[key] for key in order])])


def _checked(text: str, sources: Sequence[Sequence[MaterialResult]]) -> list[CheckedStatement]:
    """Each sentence against the first of the studies that measured what it says."""
    found: dict[int, CheckedStatement] = {}
    for results in sources:
        for checked in check_text(text, results):
            there = found.get(checked.start)
            if there is None or there.verdict is StatementVerdict.NOT_MEASURED:
                found[checked.start] = checked
    # what is asked is not claimed
    return [found[start] for start in sorted(found) if not found[start].text.endswith("?")]


def _results(session: Session, materials: Mapping[str, Material]) -> dict[str, list[MaterialResult]]:
    """By study, the newest first: one result a material and quantity, as printed; where an arm of it is not the only one, none."""
    groups = [(m, g) for m, of in groups_of(session, sorted(materials)).items() for g in of if _says(g)]
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.id.in_({g.view.test_id for _, g in groups})))}
    by_study: dict[str, dict[tuple[str, str], list[MaterialResult]]] = defaultdict(lambda: defaultdict(list))
    for material_id, g in groups:
        label = _label(g, tests[g.view.test_id])
        interval = None if g.view.ci95 is None else Interval(*g.view.ci95)
        result = MaterialResult(_name(materials[material_id]), label, g.view.unit, g.summary.mean, interval, GoodSide(g.view.good_side))
        by_study[g.view.study_id][material_id, label].append(result)
    return {study_id: _named(materials, {key: of[0] for key, of in own.items() if len(of) == 1}) for study_id, own in by_study.items()}


def _says(group: MeasuredGroup) -> bool:
    """Of what was treated or is a bound, a sentence about the material says nothing."""
    v = group.view
    return v.main and not v.treatment and not v.at_least and not v.at_most


def _label(group: MeasuredGroup, test: Test) -> str:
    """As sentences call it: what parts upright is layer adhesion."""
    is_adhesion = property_of(test.method, test.orientation) == "layer adhesion"
    return "layer adhesion" if is_adhesion else group.view.label.lower()


def _named(materials: Mapping[str, Material], results: Mapping[tuple[str, str], MaterialResult]) -> list[MaterialResult]:
    """Two colours of a product are told apart by their colour."""
    names = Counter(_name(materials[key]) for key in {material_id for material_id, _ in results})
    return list(_with_colours(materials, results, {name for name, n in names.items() if n > 1}))


def _with_colours(materials: Mapping[str, Material], results: Mapping[tuple[str, str], MaterialResult], shared: set[str]) -> Iterable[MaterialResult]:
    for (material_id, _), result in results.items():
        yield replace(result, material=f"{result.material}, {materials[material_id].colour}") if result.material in shared else result


def _name(material: Material) -> str:
    return f"{material.maker} {material.product}"
