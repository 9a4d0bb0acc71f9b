"""Plates with their places; arms narrowed to a printer or a rig; spares, treatments, purged filament; when an answer is needed."""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

ADDED = {
    "printers": ["margin DOUBLE", "keep_out JSON DEFAULT '[]' NOT NULL", "clearance DOUBLE", "passes_over DOUBLE"],
    "batches": ["plate_id VARCHAR(36) REFERENCES plates (id)"],
    "specimens": ["spare_test_id VARCHAR(36) REFERENCES tests (id)", "treated_at DATETIME"],
    "studies": ["wanted_by DATETIME"],
    "filament_uses": ["purge DOUBLE DEFAULT 0 NOT NULL"],
    "gcode_files": ["plate_id VARCHAR(36) REFERENCES plates (id)"],
}
MADE = [
    "CREATE TABLE plates ( id VARCHAR(36) NOT NULL, study_id VARCHAR(36) NOT NULL, arm_id VARCHAR(36) NOT NULL, printer_id VARCHAR(36) NOT NULL, "
    "number INTEGER NOT NULL, part INTEGER NOT NULL, one_by_one BOOLEAN NOT NULL, brim DOUBLE NOT NULL, bed JSON NOT NULL, layout VARCHAR(32) NOT NULL, laid_at DATETIME NOT NULL, "
    "CONSTRAINT pk_plates PRIMARY KEY (id), CONSTRAINT uq_plates_study_id_number UNIQUE (study_id, number), "
    "CONSTRAINT fk_plates_study_id FOREIGN KEY(study_id) REFERENCES studies (id), "
    "CONSTRAINT fk_plates_arm_id FOREIGN KEY(arm_id) REFERENCES arms (id), "
    "CONSTRAINT fk_plates_printer_id FOREIGN KEY(printer_id) REFERENCES printers (id) )",
    "CREATE INDEX ix_plates_study_id ON plates (study_id)",
    "CREATE TABLE plate_places ( plate_id VARCHAR(36) NOT NULL, position INTEGER NOT NULL, test_id VARCHAR(36) NOT NULL, slot_id VARCHAR(36), "
    "x DOUBLE NOT NULL, y DOUBLE NOT NULL, turned BOOLEAN NOT NULL, CONSTRAINT pk_plate_places PRIMARY KEY (plate_id, position), "
    "CONSTRAINT fk_plate_places_plate_id FOREIGN KEY(plate_id) REFERENCES plates (id), "
    "CONSTRAINT fk_plate_places_test_id FOREIGN KEY(test_id) REFERENCES tests (id), "
    "CONSTRAINT fk_plate_places_slot_id FOREIGN KEY(slot_id) REFERENCES slots (id) )",
    "CREATE INDEX ix_plate_places_slot_id ON plate_places (slot_id)",
    # two arms may be of one variant now, where lots, printers or rigs are studied
    "CREATE TABLE new_arms ( id VARCHAR(36) NOT NULL, study_id VARCHAR(36) NOT NULL, variant_id VARCHAR(36) NOT NULL, mark VARCHAR(2) NOT NULL, "
    "position INTEGER NOT NULL, spool_id VARCHAR(36), printer_id VARCHAR(36), rig_id VARCHAR(36), CONSTRAINT pk_arms PRIMARY KEY (id), "
    "CONSTRAINT uq_arms_study_id_mark UNIQUE (study_id, mark), "
    "CONSTRAINT fk_arms_study_id FOREIGN KEY(study_id) REFERENCES studies (id), "
    "CONSTRAINT fk_arms_variant_id FOREIGN KEY(variant_id) REFERENCES variants (id), "
    "CONSTRAINT fk_arms_spool_id FOREIGN KEY(spool_id) REFERENCES spools (id), "
    "CONSTRAINT fk_arms_printer_id FOREIGN KEY(printer_id) REFERENCES printers (id), "
    "CONSTRAINT fk_arms_rig_id FOREIGN KEY(rig_id) REFERENCES rigs (id) )",
    "INSERT INTO new_arms (id, study_id, variant_id, mark, position, spool_id) SELECT id, study_id, variant_id, mark, position, spool_id FROM arms",
    "DROP TABLE arms",
    "ALTER TABLE new_arms RENAME TO arms",
    "CREATE INDEX ix_arms_variant_id ON arms (variant_id)",
]
AFTER = [
    "CREATE INDEX ix_batches_plate_id ON batches (plate_id)",
    "CREATE INDEX ix_gcode_files_plate_id ON gcode_files (plate_id)",
]


def upgrade() -> None:
    for statement in MADE:
        op.execute(statement)
    for table, columns in ADDED.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ADD COLUMN {column}")
    for statement in AFTER:
        op.execute(statement)


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
