"""One space of codes for specimens, spools and rigs."""

from __future__ import annotations

from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core import codes
from assayer.core.codes import parse_code
from assayer.core.errors import MissingError
from assayer.services.unit import Unit, Workspace
from assayer.services.views import View
from assayer.store.models import DeviceSession, PlatePlace, Rig, RigVersion, Run, SessionMember, Slot, Specimen, Spool, Test


class CodeView(View):
    kind: Literal["specimen", "spool", "rig"]
    code: str
    id: str
    test_id: str | None
    study_id: str | None = None
    tested: bool = False
    """A specimen that has a finished run: it is looked at, not tested again."""
    rig_id: str | None = None
    """The rack that a specimen hangs on."""


def resolve_code(workspace: Workspace, text: str) -> CodeView:
    """What a scanned or typed code stands for.

    Raises
    ------
    CodeError
        If the check character or a symbol is wrong.
    MissingError
        If the code is right but belongs to nothing here.
    """
    code = parse_code(text)
    with workspace.read() as session:
        specimen = session.scalar(select(Specimen).where(Specimen.code == code))
        if specimen is not None:
            slot = session.get(Slot, specimen.slot_id) if specimen.slot_id else None
            return _specimen(session, specimen, slot)
        spool = session.scalar(select(Spool.id).where(Spool.code == code))
        if spool is not None:
            return CodeView(kind="spool", code=code, id=spool, test_id=None)
        rig = session.scalar(select(Rig).where(Rig.code == code))
        if rig is not None:
            return CodeView(kind="rig", code=code, id=rig.id, test_id=None)
    raise MissingError(f"the code {code} belongs to nothing in this notebook: was it printed for another one?")


def _specimen(session: Session, specimen: Specimen, slot: Slot | None) -> CodeView:
    standing = session.scalars(select(Run).where(Run.specimen_id == specimen.id, Run.retracted_at.is_(None))).all()
    hanging = session.scalar(
        select(RigVersion.rig_id)
        .join(DeviceSession, DeviceSession.rig_version_id == RigVersion.id)
        .join(SessionMember, SessionMember.session_id == DeviceSession.id)
        .where(SessionMember.member_kind == "run", SessionMember.member_id.in_([r.id for r in standing if not r.complete]))
    )
    return CodeView(
        kind="specimen",
        code=specimen.code,
        id=specimen.id,
        test_id=slot.test_id if slot else None,
        study_id=session.get_one(Test, slot.test_id).study_id if slot else None,
        tested=any(r.complete for r in standing),
        rig_id=hanging,
    )


def free_code(unit: Unit, length: int = 4) -> str:
    """A new code; specimens, spools and rigs share one space."""

    def taken(code: str) -> bool:
        # what is sunk into a piece that is still to be printed is taken too
        held = unit.session.scalar(select(PlatePlace.position).where(PlatePlace.code == code)) is not None
        return held or any(unit.session.scalar(select(kind.id).where(kind.code == code)) is not None for kind in (Specimen, Spool, Rig))

    return codes.make_code(taken, length, unit.rng.choice) if unit.rng is not None else codes.make_code(taken, length)
