"""Studies: how a plan is meant, when it was started, what was amended. Print: printer, nozzle, time and room of a batch; how each specimen came off."""

from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

ADDED = {
    "studies": ["each_at_best BOOLEAN DEFAULT 0 NOT NULL", "studied_settings JSON DEFAULT '[]' NOT NULL", "started_at DATETIME"],
    "batches": ["printer_id VARCHAR(36) REFERENCES printers (id)", "nozzle VARCHAR(80) DEFAULT '' NOT NULL", "minutes DOUBLE", "room DOUBLE"],
    "specimens": ["outcome VARCHAR(20) DEFAULT 'good' NOT NULL", "fault VARCHAR(120) DEFAULT '' NOT NULL", "planned_slot_id VARCHAR(36) REFERENCES slots (id)"],
}
MADE = [
    "CREATE TABLE amendments ( id VARCHAR(36) NOT NULL, study_id VARCHAR(36) NOT NULL, at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, "
    "who VARCHAR(80) NOT NULL, what TEXT NOT NULL, reason TEXT NOT NULL, CONSTRAINT pk_amendments PRIMARY KEY (id), "
    "CONSTRAINT fk_amendments_study_id FOREIGN KEY(study_id) REFERENCES studies (id) )",
    "CREATE INDEX ix_amendments_study_id ON amendments (study_id)",
    # what was printed before is a study under way
    "UPDATE studies SET started_at = (SELECT MIN(b.printed_at) FROM batches b JOIN arms a ON a.variant_id = b.variant_id JOIN specimens p ON p.batch_id = b.id "
    "JOIN slots s ON s.id = p.slot_id AND s.arm_id = a.id WHERE a.study_id = studies.id)",
]


def upgrade() -> None:
    for table, columns in ADDED.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ADD COLUMN {column}")
    for statement in MADE:
        op.execute(statement)


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
