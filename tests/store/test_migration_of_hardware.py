"""Changes of printers from before they could be corrected (schema 16) keep what was said, and which of them retired something."""

from alembic import command
from alembic.config import Config
from sqlalchemy import select

from assayer.services.dial_in.hardware import hardware
from assayer.services.unit import Workspace
from assayer.store.database import Database
from assayer.store.models import PrinterChange
from assayer.store.schema import _MIGRATIONS

from .test_migrations import AT, insert, key

LATER = "2026-02-01 10:00:00.000000"


def schema_16(folder):
    """A nozzle fitted, another fitted for it that was worn, a surface put on, the frame braced, each as it was told then."""
    database = Database(folder, durable=False)
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with database._writer.begin() as c:
        config.attributes["connection"] = c
        command.upgrade(config, "0016")
        insert(c, "printers", id=key(1), name="Warm Box", bed_surface="", created_at=AT, revision=1)
        nozzle = {"diameter": 0.4, "material": "brass", "hardened": False, "created_at": AT, "revision": 1}
        insert(c, "nozzles", id=key(2), name="Old", printer_id=key(1), retired_at=LATER, **nozzle)
        insert(c, "nozzles", id=key(3), name="New", printer_id=key(1), **nozzle)
        insert(c, "bed_surfaces", id=key(4), name="Smooth", note="", printer_id=key(1), created_at=AT, revision=1)
        told = {"printer_id": key(1), "zone": "UTC", "who": "Ilse"}
        insert(c, "printer_changes", id=key(5), at=AT, entered_at=AT, kind="nozzle", text="Old fitted", nozzle_id=key(2), **told)
        insert(c, "printer_changes", id=key(6), at=LATER, entered_at=LATER, kind="nozzle", text="New fitted; the old one dripped", nozzle_id=key(3), **told)
        insert(c, "printer_changes", id=key(7), at=LATER, entered_at=LATER, kind="bed surface", text="Smooth put on", bed_surface_id=key(4), **told)
        insert(c, "printer_changes", id=key(8), at=AT, entered_at=AT, kind="bracing", text="a strut; at the back", **told)
    database.close()


def test_a_notebook_of_schema_16_keeps_its_changes(tmp_path):
    schema_16(tmp_path / "data")
    workspace = Workspace(tmp_path / "data", durable=False)
    try:
        with workspace.read() as session:
            found = {c.id: (c.kind, c.own, c.retires, c.revision) for c in session.scalars(select(PrinterChange))}
        assert found == {
            key(5): ("nozzle", "", False, 1),
            key(6): ("nozzle", "the old one dripped", True, 1),
            key(7): ("bed surface", "", False, 1),
            key(8): ("frame", "a strut; at the back", False, 1),
        }
        shown = hardware(workspace)
        (printer,) = shown.printers
        assert (printer.nozzle_id, printer.bed_surface_id, len(printer.changes)) == (key(3), key(4), 4)
        assert {n.name: n.retired_at is not None for n in shown.nozzles} == {"Old": True, "New": False}
    finally:
        workspace.close()
