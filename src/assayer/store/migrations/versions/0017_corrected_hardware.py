"""The same recording is found by its bytes; what is noted of printers, nozzles and bed surfaces can be corrected and withdrawn."""

from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE INDEX ix_curves_sha256 ON curves (sha256)")
    op.execute("ALTER TABLE nozzles ADD COLUMN withdrawn_at DATETIME")
    op.execute("ALTER TABLE bed_surfaces ADD COLUMN withdrawn_at DATETIME")
    op.execute("ALTER TABLE printer_changes ADD COLUMN own VARCHAR(200) DEFAULT '' NOT NULL")
    op.execute("ALTER TABLE printer_changes ADD COLUMN retires BOOLEAN DEFAULT 0 NOT NULL")
    op.execute("ALTER TABLE printer_changes ADD COLUMN stood JSON DEFAULT '{}' NOT NULL")
    op.execute("ALTER TABLE printer_changes ADD COLUMN revision INTEGER DEFAULT 1 NOT NULL")
    op.execute("UPDATE printer_changes SET kind = 'frame' WHERE kind = 'bracing'")
    # "Steel 0.4 fitted; the old one was worn": what was said follows what was done
    op.execute(
        "UPDATE printer_changes SET own = CASE WHEN nozzle_id IS NULL AND bed_surface_id IS NULL THEN text"
        " WHEN instr(text, '; ') > 0 THEN substr(text, instr(text, '; ') + 2) ELSE '' END"
    )
    # what was retired at the same moment was retired by the change
    op.execute(
        "UPDATE printer_changes SET retires = 1 WHERE nozzle_id IS NOT NULL AND EXISTS (SELECT 1 FROM nozzles n WHERE n.retired_at = printer_changes.entered_at)"
        " OR bed_surface_id IS NOT NULL AND EXISTS (SELECT 1 FROM bed_surfaces b WHERE b.retired_at = printer_changes.entered_at)"
    )


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
