"""The dial-in: trails, trials, grades, nozzles, bed surfaces, G-code files, calibrations, current sheets; photographs."""

from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

# fmt: off
ADDED = {
    "printers": [
        "build_x DOUBLE", "build_y DOUBLE", "build_z DOUBLE", "acceleration DOUBLE", "filtered BOOLEAN", "feeder VARCHAR(80) DEFAULT '' NOT NULL",
    ],
    "settings_sheets": ["extras JSON DEFAULT '[]' NOT NULL", "prepared_with VARCHAR(80) DEFAULT '' NOT NULL"],
}
MADE = [
    "CREATE TABLE nozzles ( id VARCHAR(36) NOT NULL, name VARCHAR(80) NOT NULL, diameter DOUBLE NOT NULL, material VARCHAR(80) NOT NULL, hardened BOOLEAN NOT NULL, printer_id VARCHAR(36), retired_at DATETIME, created_at DATETIME NOT NULL, revision INTEGER NOT NULL, CONSTRAINT pk_nozzles PRIMARY KEY (id), CONSTRAINT ck_nozzles_diameter CHECK (diameter > 0), CONSTRAINT uq_nozzles_name UNIQUE (name), CONSTRAINT fk_nozzles_printer_id FOREIGN KEY(printer_id) REFERENCES printers (id) )",
    "CREATE INDEX ix_nozzles_printer_id ON nozzles (printer_id)",
    "CREATE TABLE bed_surfaces ( id VARCHAR(36) NOT NULL, name VARCHAR(80) NOT NULL, note VARCHAR(200) NOT NULL, printer_id VARCHAR(36), retired_at DATETIME, created_at DATETIME NOT NULL, revision INTEGER NOT NULL, CONSTRAINT pk_bed_surfaces PRIMARY KEY (id), CONSTRAINT uq_bed_surfaces_name UNIQUE (name), CONSTRAINT fk_bed_surfaces_printer_id FOREIGN KEY(printer_id) REFERENCES printers (id) )",
    "CREATE INDEX ix_bed_surfaces_printer_id ON bed_surfaces (printer_id)",
    "CREATE TABLE printer_changes ( id VARCHAR(36) NOT NULL, printer_id VARCHAR(36) NOT NULL, at DATETIME NOT NULL, kind VARCHAR(20) NOT NULL, text VARCHAR(200) NOT NULL, nozzle_id VARCHAR(36), bed_surface_id VARCHAR(36), entered_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, retracted_at DATETIME, CONSTRAINT pk_printer_changes PRIMARY KEY (id), CONSTRAINT fk_printer_changes_printer_id FOREIGN KEY(printer_id) REFERENCES printers (id), CONSTRAINT fk_printer_changes_nozzle_id FOREIGN KEY(nozzle_id) REFERENCES nozzles (id), CONSTRAINT fk_printer_changes_bed_surface_id FOREIGN KEY(bed_surface_id) REFERENCES bed_surfaces (id) )",
    "CREATE INDEX ix_printer_changes_printer_id ON printer_changes (printer_id)",
    "CREATE TABLE trails ( id VARCHAR(36) NOT NULL, material_id VARCHAR(36) NOT NULL, printer_id VARCHAR(36) NOT NULL, nozzle_id VARCHAR(36), purpose VARCHAR(80) NOT NULL, part VARCHAR(80) NOT NULL, created_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, revision INTEGER NOT NULL, put_away_at DATETIME, CONSTRAINT pk_trails PRIMARY KEY (id), CONSTRAINT fk_trails_material_id FOREIGN KEY(material_id) REFERENCES materials (id), CONSTRAINT fk_trails_printer_id FOREIGN KEY(printer_id) REFERENCES printers (id), CONSTRAINT fk_trails_nozzle_id FOREIGN KEY(nozzle_id) REFERENCES nozzles (id) )",
    "CREATE INDEX ix_trails_material_id ON trails (material_id)",
    "CREATE INDEX ix_trails_printer_id ON trails (printer_id)",
    "CREATE TABLE trials ( id VARCHAR(36) NOT NULL, trail_id VARCHAR(36) NOT NULL, number INTEGER NOT NULL, parent_id VARCHAR(36), sheet_id VARCHAR(36) NOT NULL, part VARCHAR(80) NOT NULL, series JSON, control_material_id VARCHAR(36), spool_id VARCHAR(36), nozzle_id VARCHAR(36), printed_at DATETIME, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, outcome VARCHAR(10) NOT NULL, failed_at DOUBLE, failed_band INTEGER, minutes DOUBLE, room DOUBLE, humidity DOUBLE, total_mass DOUBLE, brim_mass DOUBLE, support_mass DOUBLE, lift DOUBLE, symptoms JSON NOT NULL, tested VARCHAR(4) NOT NULL, removal VARCHAR(20) NOT NULL, bond VARCHAR(20) NOT NULL, while_running JSON NOT NULL, note TEXT NOT NULL, decision VARCHAR(10) NOT NULL, entered_at DATETIME NOT NULL, revision INTEGER NOT NULL, retracted_at DATETIME, CONSTRAINT pk_trials PRIMARY KEY (id), CONSTRAINT uq_trials_trail_id_number UNIQUE (trail_id, number), CONSTRAINT ck_trials_outcome CHECK (outcome IN ('planned', 'good', 'poor', 'failed', 'stopped')), CONSTRAINT ck_trials_failed_at CHECK (failed_at BETWEEN 0 AND 100), CONSTRAINT ck_trials_decision CHECK (decision IN ('', 'keep', 'drop', 'try next')), CONSTRAINT fk_trials_trail_id FOREIGN KEY(trail_id) REFERENCES trails (id), CONSTRAINT fk_trials_parent_id FOREIGN KEY(parent_id) REFERENCES trials (id), CONSTRAINT fk_trials_sheet_id FOREIGN KEY(sheet_id) REFERENCES settings_sheets (id), CONSTRAINT fk_trials_control_material_id FOREIGN KEY(control_material_id) REFERENCES materials (id), CONSTRAINT fk_trials_spool_id FOREIGN KEY(spool_id) REFERENCES spools (id), CONSTRAINT fk_trials_nozzle_id FOREIGN KEY(nozzle_id) REFERENCES nozzles (id) )",
    "CREATE INDEX ix_trials_nozzle_id ON trials (nozzle_id)",
    "CREATE INDEX ix_trials_spool_id ON trials (spool_id)",
    "CREATE INDEX ix_trials_trail_id ON trials (trail_id)",
    "CREATE TABLE trial_filaments ( id VARCHAR(36) NOT NULL, trial_id VARCHAR(36) NOT NULL, position INTEGER NOT NULL, material_id VARCHAR(36) NOT NULL, spool_id VARCHAR(36), part_mass DOUBLE, purge_mass DOUBLE, CONSTRAINT pk_trial_filaments PRIMARY KEY (id), CONSTRAINT uq_trial_filaments_trial_id_position UNIQUE (trial_id, position), CONSTRAINT fk_trial_filaments_trial_id FOREIGN KEY(trial_id) REFERENCES trials (id), CONSTRAINT fk_trial_filaments_material_id FOREIGN KEY(material_id) REFERENCES materials (id), CONSTRAINT fk_trial_filaments_spool_id FOREIGN KEY(spool_id) REFERENCES spools (id) )",
    "CREATE INDEX ix_trial_filaments_trial_id ON trial_filaments (trial_id)",
    "CREATE TABLE trial_grades ( id VARCHAR(36) NOT NULL, trial_id VARCHAR(36) NOT NULL, band INTEGER, trait VARCHAR(20) NOT NULL, grader VARCHAR(80) NOT NULL, distance VARCHAR(4) NOT NULL, grade DOUBLE, angle DOUBLE, at DATETIME NOT NULL, entered_at DATETIME NOT NULL, retracted_at DATETIME, CONSTRAINT pk_trial_grades PRIMARY KEY (id), CONSTRAINT ck_trial_grades_grade CHECK (grade BETWEEN 0 AND 4), CONSTRAINT ck_trial_grades_distance CHECK (distance IN ('near', 'far')), CONSTRAINT fk_trial_grades_trial_id FOREIGN KEY(trial_id) REFERENCES trials (id) )",
    "CREATE INDEX ix_trial_grades_trial_id ON trial_grades (trial_id)",
    "CREATE TABLE gcode_files ( id VARCHAR(36) NOT NULL, name VARCHAR(200) NOT NULL, sha256 VARCHAR(64) NOT NULL, size INTEGER NOT NULL, trail_id VARCHAR(36), trial_id VARCHAR(36), found JSON NOT NULL, added_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, retracted_at DATETIME, CONSTRAINT pk_gcode_files PRIMARY KEY (id), CONSTRAINT fk_gcode_files_trail_id FOREIGN KEY(trail_id) REFERENCES trails (id), CONSTRAINT fk_gcode_files_trial_id FOREIGN KEY(trial_id) REFERENCES trials (id) )",
    "CREATE INDEX ix_gcode_files_trail_id ON gcode_files (trail_id)",
    "CREATE INDEX ix_gcode_files_trial_id ON gcode_files (trial_id)",
    '''CREATE TABLE dial_calibrations ( id VARCHAR(36) NOT NULL, kind VARCHAR(20) NOT NULL, trail_id VARCHAR(36) NOT NULL, spool_id VARCHAR(36), nozzle_id VARCHAR(36), before_sheet_id VARCHAR(36) NOT NULL, sheet_id VARCHAR(36) NOT NULL, entered JSON NOT NULL, "before" DOUBLE, "after" DOUBLE NOT NULL, at DATETIME NOT NULL, entered_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, retracted_at DATETIME, CONSTRAINT pk_dial_calibrations PRIMARY KEY (id), CONSTRAINT fk_dial_calibrations_trail_id FOREIGN KEY(trail_id) REFERENCES trails (id), CONSTRAINT fk_dial_calibrations_spool_id FOREIGN KEY(spool_id) REFERENCES spools (id), CONSTRAINT fk_dial_calibrations_nozzle_id FOREIGN KEY(nozzle_id) REFERENCES nozzles (id), CONSTRAINT fk_dial_calibrations_before_sheet_id FOREIGN KEY(before_sheet_id) REFERENCES settings_sheets (id), CONSTRAINT fk_dial_calibrations_sheet_id FOREIGN KEY(sheet_id) REFERENCES settings_sheets (id) )''',
    "CREATE INDEX ix_dial_calibrations_trail_id ON dial_calibrations (trail_id)",
    "CREATE TABLE current_sheets ( id VARCHAR(36) NOT NULL, material_id VARCHAR(36) NOT NULL, printer_id VARCHAR(36) NOT NULL, purpose VARCHAR(80) NOT NULL, sheet_id VARCHAR(36) NOT NULL, trial_id VARCHAR(36), accepted_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, retracted_at DATETIME, CONSTRAINT pk_current_sheets PRIMARY KEY (id), CONSTRAINT fk_current_sheets_material_id FOREIGN KEY(material_id) REFERENCES materials (id), CONSTRAINT fk_current_sheets_printer_id FOREIGN KEY(printer_id) REFERENCES printers (id), CONSTRAINT fk_current_sheets_sheet_id FOREIGN KEY(sheet_id) REFERENCES settings_sheets (id), CONSTRAINT fk_current_sheets_trial_id FOREIGN KEY(trial_id) REFERENCES trials (id) )",
    "CREATE INDEX ix_current_sheets_material_id ON current_sheets (material_id)",
    "CREATE TABLE photos ( id VARCHAR(36) NOT NULL, subject_kind VARCHAR(20) NOT NULL, subject_id VARCHAR(36) NOT NULL, band INTEGER, sha256 VARCHAR(64) NOT NULL, thumb_sha256 VARCHAR(64) NOT NULL, media VARCHAR(40) NOT NULL, width INTEGER NOT NULL, height INTEGER NOT NULL, caption VARCHAR(200) NOT NULL, scale DOUBLE, added_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, revision INTEGER NOT NULL, retracted_at DATETIME, CONSTRAINT pk_photos PRIMARY KEY (id) )",
    "CREATE INDEX ix_photos_subject ON photos (subject_kind, subject_id)",
]
# fmt: on


def upgrade() -> None:
    for table, columns in ADDED.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ADD COLUMN {column}")
    for statement in MADE:
        op.execute(statement)


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
