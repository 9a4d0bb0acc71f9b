"""One space of codes for specimens, spools and rigs."""

from __future__ import annotations

from typing import Literal

from sqlalchemy import select

from assayer.core import codes
from assayer.core.codes import parse_code
from assayer.core.errors import MissingError
from assayer.services.unit import Unit, Workspace
from assayer.services.views import View
from assayer.store.models import Rig, Slot, Specimen, Spool


class CodeView(View):
    kind: Literal["specimen", "spool", "rig"]
    code: str
    id: str
    test_id: str | None


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
            return CodeView(kind="specimen", code=code, id=specimen.id, test_id=slot.test_id if slot else None)
        spool = session.scalar(select(Spool.id).where(Spool.code == code))
        if spool is not None:
            return CodeView(kind="spool", code=code, id=spool, test_id=None)
        rig = session.scalar(select(Rig).where(Rig.code == code))
        if rig is not None:
            return CodeView(kind="rig", code=code, id=rig.id, test_id=None)
    raise MissingError(f"the code {code} belongs to nothing in this notebook: was it printed for another one?")


def free_code(unit: Unit, length: int = 4) -> str:
    """A new code; specimens, spools and rigs share one space."""

    def taken(code: str) -> bool:
        return any(unit.session.scalar(select(kind.id).where(kind.code == code)) is not None for kind in (Specimen, Spool, Rig))

    return codes.make_code(taken, length, unit.rng.choice) if unit.rng is not None else codes.make_code(taken, length)
