"""Labels of spools, specimens and rigs; the settings of this notebook."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import select

from assayer.core.codes import parse_code
from assayer.core.errors import MissingError
from assayer.formats.labels.label import Label, label_svg
from assayer.services.stock.views import Preferences
from assayer.services.unit import Actor, Workspace
from assayer.store.models import Preference, Rig, Specimen, Spool

if TYPE_CHECKING:
    from assayer.services.stock.requests import PreferencesEdit


def get_preferences(workspace: Workspace, opened_at: str) -> Preferences:
    """What is set for this notebook; labels lead to the address it was opened with until another one is set."""
    with workspace.read() as session:
        kept = session.get(Preference, "label_base_url")
        return Preferences(label_base_url=kept.value if kept else opened_at)


def set_preferences(workspace: Workspace, actor: Actor, edit: PreferencesEdit) -> Preferences:
    """The address that the QR codes of labels begin with."""
    with workspace.write(actor) as unit:
        kept = unit.session.get(Preference, "label_base_url")
        value = edit.label_base_url.rstrip("/")
        before = kept.value if kept else None
        if kept is None:
            unit.session.add(Preference(key="label_base_url", value=value))
        else:
            kept.value = value
        unit.log("preference", "label_base_url", "set", {"value": before}, {"value": value})
        return Preferences(label_base_url=value)


def label(workspace: Workspace, text: str, opened_at: str) -> str:
    """The label of a code as SVG; a specimen's tells its code alone, so that it stays blind.

    Raises
    ------
    CodeError, MissingError
    """
    code = parse_code(text)
    base = get_preferences(workspace, opened_at).label_base_url
    with workspace.read() as session:
        spool = session.scalar(select(Spool).where(Spool.code == code))
        if spool is not None:
            m = spool.material
            composition = m.polymer + (f" + {m.filler_share:g} % {m.filler}" if m.filler and m.filler_share else f" + {m.filler}" if m.filler else "")
            lines = [f"{m.maker} {m.product}", f"{m.colour} · {composition}", f"lot {spool.lot or '–'} · came {spool.received_on}"]
            return label_svg(Label(code, f"{base}/c/{code}", lines, m.hex, m.mark, m.filler is not None))
        if session.scalar(select(Specimen.id).where(Specimen.code == code)) is not None:
            return label_svg(Label(code, f"{base}/c/{code}", ["specimen"]))
        rig = session.scalar(select(Rig).where(Rig.code == code))
        if rig is not None:
            return label_svg(Label(code, f"{base}/c/{code}", ["rig", rig.name]))
    raise MissingError(f"the code {code} belongs to nothing in this notebook")
