"""Finding: several words in any order, over everything that has a name, a code, a lot or a place."""

from __future__ import annotations

from collections.abc import Iterable

from sqlalchemy import ColumnElement, Select, and_, exists, func, literal, select, tuple_
from sqlalchemy.orm import InstrumentedAttribute, Session, aliased

from assayer.core.methods import REGISTRY
from assayer.services.day.views import Found, FoundList
from assayer.services.unit import Workspace
from assayer.store.models import CurrentSheet, Material, OwnMethodVersion, Printer, Purpose, Rig, Slot, Specimen, Spool, StorageMove, Study, Test, Trail

_WORDS = 8
"""More words than that narrow nothing down any more."""

Text = ColumnElement[str] | InstrumentedAttribute[str]


def search(workspace: Workspace, text: str, limit: int) -> FoundList:
    """What all words are found in, each kind in the order of its names; what is called exactly so stands first.

    A spool is found by its code, lot and place and by what its material is called, a material by its maker, product,
    polymer, filler and colour, a specimen by its code or how it begins; a dial-in and its accepted sheet by their material,
    printer, purpose and part.
    """
    words = text.split()[:_WORDS]
    if not words:
        return FoundList(items=[])
    with workspace.read() as session:
        found = [
            *_materials(session, words, limit),
            *_spools(session, words, limit),
            *_plain(session, words, limit, "study", select(Study.id, Study.title, literal("")), Study.title, [Study.title, Study.question]),
            *_trails(session, words, limit),
            *_sheets(session, words, limit),
            *_plain(session, words, limit, "purpose", select(Purpose.id, Purpose.title, literal("")), Purpose.title, [Purpose.title]),
            *_plain(session, words, limit, "rig", select(Rig.id, Rig.name, Rig.code), Rig.name, [Rig.name, Rig.code]),
            *_plain(session, words, limit, "printer", select(Printer.id, Printer.name, literal("")), Printer.name, [Printer.name]),
            *_methods(session, words, limit),
            *_specimens(session, words, limit),
        ]
    whole = " ".join(words).casefold()
    found.sort(key=lambda f: whole not in (f.code.casefold(), f.label.casefold()))
    return FoundList(items=found[:limit])


def _holds(words: Iterable[str], texts: Iterable[Text | ColumnElement[str]]) -> ColumnElement[bool]:
    """All of the words, wherever they stand."""
    whole: ColumnElement[str] = literal("")
    for one in texts:
        whole = whole + " " + func.coalesce(one, "")
    return and_(*(whole.icontains(word, autoescape=True) for word in words))


def _plain(session: Session, words: list[str], limit: int, kind: str, rows: Select[str, str, str], order: Text, texts: list[Text]) -> list[Found]:
    found = session.execute(rows.where(_holds(words, texts)).order_by(order).limit(limit))
    return [Found.model_validate({"kind": kind, "id": key, "label": label, "detail": "", "code": code}) for key, label, code in found]


def _texts(m: type[Material]) -> list[Text | ColumnElement[str]]:
    return [m.maker, m.product, m.polymer, func.coalesce(m.filler, ""), m.colour, m.mark]


def _materials(session: Session, words: list[str], limit: int) -> list[Found]:
    rows = session.scalars(select(Material).where(_holds(words, _texts(Material))).order_by(Material.maker, Material.product, Material.colour).limit(limit))
    return [
        Found(kind="material", id=m.id, label=f"{m.maker} {m.product}, {m.colour}", detail=m.polymer + (f" + {m.filler}" if m.filler else ""), code="")
        for m in rows
    ]


def _spools(session: Session, words: list[str], limit: int) -> list[Found]:
    place = (
        select(StorageMove.place)
        .where(StorageMove.spool_id == Spool.id, StorageMove.retracted_at.is_(None))
        .order_by(StorageMove.at.desc())
        .limit(1)
        .scalar_subquery()
    )
    rows = session.execute(
        select(Spool, Material, place)
        .join(Material, Material.id == Spool.material_id)
        .where(_holds(words, [Spool.code, Spool.lot, place, *_texts(Material)]))
        .order_by(Spool.gone_at.is_not(None), Material.maker, Material.product, Spool.code)
        .limit(limit)
    )
    return [
        Found(
            kind="spool",
            id=s.id,
            label=f"{s.code} {m.maker} {m.product}, {m.colour}",
            detail=", ".join(filter(None, [f"lot {s.lot}" if s.lot else "", where, f"gone: {s.gone_why}" if s.gone_at else ""])),
            code=s.code,
        )
        for s, m, where in rows
    ]


def _trails(session: Session, words: list[str], limit: int) -> list[Found]:
    rows = session.execute(
        select(Trail.id, Trail.purpose, Trail.part, Printer.name, Material)
        .join(Material, Material.id == Trail.material_id)
        .join(Printer, Printer.id == Trail.printer_id)
        .where(_holds(words, [literal("dial-in"), Trail.purpose, Trail.part, Printer.name, *_texts(Material)]))
        .order_by(Trail.put_away_at.is_not(None), Trail.created_at.desc())
        .limit(limit)
    )
    return [
        Found(kind="dial-in", id=key, label=f"{m.maker} {m.product}, {m.colour}: {purpose}", detail=f"{part} on {printer}", code="")
        for key, purpose, part, printer, m in rows
    ]


def _sheets(session: Session, words: list[str], limit: int) -> list[Found]:
    """The sheet that each material is printed with, on a printer for a purpose: the one accepted last."""
    later = aliased(CurrentSheet)
    same = [later.material_id == CurrentSheet.material_id, later.printer_id == CurrentSheet.printer_id, later.purpose == CurrentSheet.purpose]
    newer = exists().where(*same, later.retracted_at.is_(None), tuple_(later.accepted_at, later.id) > tuple_(CurrentSheet.accepted_at, CurrentSheet.id))
    rows = session.execute(
        select(CurrentSheet.sheet_id, CurrentSheet.purpose, Printer.name, Material)
        .join(Material, Material.id == CurrentSheet.material_id)
        .join(Printer, Printer.id == CurrentSheet.printer_id)
        .where(CurrentSheet.retracted_at.is_(None), ~newer, _holds(words, [literal("settings sheet"), CurrentSheet.purpose, Printer.name, *_texts(Material)]))
        .order_by(CurrentSheet.accepted_at.desc())
        .limit(limit)
    )
    return [
        Found(kind="sheet", id=key, label=f"settings sheet: {m.maker} {m.product}, {m.colour}", detail=f"{purpose} on {printer}", code="")
        for key, purpose, printer, m in rows
    ]


def _methods(session: Session, words: list[str], limit: int) -> list[Found]:
    """Ways of testing: those delivered, and the latest version of each that the lab defined."""
    delivered = [(m.name, m.label) for m in REGISTRY.values() if all(word.casefold() in m.label.casefold() for word in words)]
    later = aliased(OwnMethodVersion)
    newer = exists().where(later.family == OwnMethodVersion.family, later.number > OwnMethodVersion.number)
    own = (
        select(OwnMethodVersion.method, OwnMethodVersion.label)
        .where(~newer, OwnMethodVersion.withdrawn_at.is_(None), _holds(words, [OwnMethodVersion.label]))
        .order_by(OwnMethodVersion.label)
        .limit(limit)
    )
    methods = [*delivered, *((name, label) for name, label in session.execute(own))]
    return [Found(kind="method", id=name, label=label, detail="how it is tested", code="") for name, label in methods[:limit]]


def _specimens(session: Session, words: list[str], limit: int) -> list[Found]:
    """By the beginning of a code, which the index answers: there are many of them."""
    if len(words) > 1 or len(words[0]) < 3:
        return []
    begin = words[0].upper()
    rows = session.execute(
        select(Specimen.id, Specimen.code, Study.title)
        .join(Slot, Slot.id == func.coalesce(Specimen.slot_id, Specimen.planned_slot_id))
        .join(Test, Test.id == Slot.test_id)
        .join(Study, Study.id == Test.study_id)
        .where(Specimen.code >= begin, Specimen.code < begin + "\uffff")
        .order_by(Specimen.code)
        .limit(limit)
    )
    return [Found(kind="specimen", id=key, label=code, detail=title, code=code) for key, code, title in rows]
