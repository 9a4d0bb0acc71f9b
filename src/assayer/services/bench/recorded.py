"""Questions about the specimen of a recording: already saved for another one, or named with the code of another one."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session, aliased

from assayer.core.errors import Question
from assayer.formats.curves.parting import codes_in
from assayer.store.models import Curve, Run, Specimen


def questions_about_recording(session: Session, curve_id: str | None, specimen_id: str | None) -> list[Question]:
    """What is asked before a recording is saved for a specimen; nothing where there is no recording."""
    if curve_id is None or specimen_id is None:
        return []
    questions = []
    saved = saved_for(session, [curve_id], specimen_id).get(curve_id)
    if saved is not None:
        questions.append(_question(f"saved={curve_id}:{saved}", f"the same recording is already saved for {saved}: is it this specimen's?"))
    named = _named_with(session, curve_id, specimen_id)
    if named is not None:
        name, code = named
        questions.append(_question(f"named={name}:{code}", f"the file '{name}' is named with the code of {code}: is it this specimen's?"))
    return questions


def _question(key: str, text: str) -> Question:
    return Question(key, "", text, confirm="It is this specimen's")


def saved_for(session: Session, curve_ids: Iterable[str], except_for: str | None = None) -> Mapping[str, str]:
    """Codes of specimens that the same recordings are saved for already, by curve id; `except_for` is the specimen that may have it."""
    mine, other = aliased(Curve), aliased(Curve)
    rows = session.execute(
        # the parts of one file have its bytes in common, not their curves
        select(mine.id, Specimen.code)
        .join(other, other.sha256 == mine.sha256)
        .join(Run, Run.curve_id == other.id)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .where(mine.id.in_(list(curve_ids)), other.id != mine.id, other.data == mine.data, Run.retracted_at.is_(None))
        .where(Specimen.id.is_distinct_from(except_for))
        .order_by(Run.happened_at.desc())
    )
    return {curve: code for curve, code in rows}


def specimen_codes_in(session: Session, names: Iterable[str]) -> Mapping[str, list[str]]:
    """The codes of specimens that file names hold, by name; other words that happen to look like codes are passed over."""
    words = {name: codes_in(name) for name in names}
    candidates = {code for codes in words.values() for code in codes}
    known = set(session.scalars(select(Specimen.code).where(Specimen.code.in_(candidates)))) if candidates else set()
    return {name: [code for code in codes if code in known] for name, codes in words.items()}


def _named_with(session: Session, curve_id: str, specimen_id: str) -> tuple[str, str] | None:
    """The file's name and the code of another specimen in it; None where its own stands there too, or none."""
    name = session.scalar(select(Curve.file_name).where(Curve.id == curve_id))
    codes = [] if name is None else specimen_codes_in(session, [name])[name]
    if not codes or session.scalar(select(Specimen.code).where(Specimen.id == specimen_id)) in codes:
        return None
    return str(name), codes[0]
