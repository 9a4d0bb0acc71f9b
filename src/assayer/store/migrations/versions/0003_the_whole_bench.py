"""The whole bench: rigs as channels, sessions with members of any kind, open runs of any subject, protocols; words by the glossary."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

# fmt: off

NEW = [
    """CREATE TABLE rig_channels (
    id VARCHAR(36) NOT NULL,
    rig_version_id VARCHAR(36) NOT NULL,
    name VARCHAR(40) NOT NULL,
    dimension VARCHAR(40) NOT NULL,
    unit VARCHAR(12) NOT NULL,
    decimals INTEGER NOT NULL,
    step DOUBLE NOT NULL,
    low DOUBLE,
    high DOUBLE,
    position INTEGER NOT NULL,
    CONSTRAINT pk_rig_channels PRIMARY KEY (id),
    CONSTRAINT uq_rig_channels_rig_version_id_name UNIQUE (rig_version_id, name),
    CONSTRAINT ck_rig_channels_decimals CHECK (decimals BETWEEN 0 AND 6),
    CONSTRAINT ck_rig_channels_step CHECK (step > 0),
    CONSTRAINT ck_rig_channels_range CHECK (low < high),
    CONSTRAINT fk_rig_channels_rig_version_id FOREIGN KEY(rig_version_id) REFERENCES rig_versions (id)
)""",
    """CREATE TABLE session_readings (
    seq INTEGER NOT NULL,
    id VARCHAR(36) NOT NULL,
    session_id VARCHAR(36) NOT NULL,
    field VARCHAR(40) NOT NULL,
    happened_at DATETIME NOT NULL,
    entered_at DATETIME NOT NULL,
    zone VARCHAR(64) NOT NULL,
    raw VARCHAR(80) NOT NULL,
    value DOUBLE NOT NULL,
    unit VARCHAR(12) NOT NULL,
    entered_by VARCHAR(80) NOT NULL,
    supersedes_id VARCHAR(36),
    reason VARCHAR(200),
    CONSTRAINT pk_session_readings PRIMARY KEY (seq),
    CONSTRAINT ck_session_readings_correction CHECK (supersedes_id IS NULL OR reason IS NOT NULL),
    CONSTRAINT uq_session_readings_id UNIQUE (id),
    CONSTRAINT fk_session_readings_session_id FOREIGN KEY(session_id) REFERENCES sessions (id),
    CONSTRAINT uq_session_readings_supersedes_id UNIQUE (supersedes_id),
    CONSTRAINT fk_session_readings_supersedes_id FOREIGN KEY(supersedes_id) REFERENCES session_readings (id)
)""",
]

# a table is made anew beside the old one, filled, and takes its name; foreign keys are off meanwhile and checked afterwards (see Database.migrate)
AGAIN = [
    ("maker_windows", "maker_windows",
     """CREATE TABLE new_maker_windows (
    material_id VARCHAR(36) NOT NULL,
    nozzle_low DOUBLE,
    nozzle_high DOUBLE,
    bed_low DOUBLE,
    bed_high DOUBLE,
    chamber_low DOUBLE,
    chamber_high DOUBLE,
    speed_low DOUBLE,
    speed_high DOUBLE,
    flow_max DOUBLE,
    dry_temperature DOUBLE,
    dry_time DOUBLE,
    dry_limit DOUBLE,
    nozzle_min DOUBLE,
    hardened BOOLEAN,
    enclosure BOOLEAN,
    bed_surface VARCHAR(80) NOT NULL,
    adhesive VARCHAR(80) NOT NULL,
    tolerance DOUBLE,
    source VARCHAR(200) NOT NULL,
    CONSTRAINT pk_maker_windows PRIMARY KEY (material_id),
    CONSTRAINT ck_maker_windows_nozzle CHECK (nozzle_low <= nozzle_high),
    CONSTRAINT ck_maker_windows_bed CHECK (bed_low <= bed_high),
    CONSTRAINT ck_maker_windows_chamber CHECK (chamber_low <= chamber_high),
    CONSTRAINT ck_maker_windows_speed CHECK (speed_low <= speed_high),
    CONSTRAINT fk_maker_windows_material_id FOREIGN KEY(material_id) REFERENCES materials (id)
)""",
     "material_id, nozzle_low, nozzle_high, bed_low, bed_high, chamber_low, chamber_high, speed_low, speed_high, flow_max, dry_temperature, dry_time, dry_limit, nozzle_min, hardened, enclosure, bed_surface, adhesive, tolerance, source",
     "material_id, nozzle_low, nozzle_high, bed_low, bed_high, chamber_low, chamber_high, speed_low, speed_high, flow_max, dry_temperature, dry_time, dry_limit, nozzle_min, hardened, enclosure, plate, adhesive, tolerance, source"),
    ("spools", "spools",
     """CREATE TABLE new_spools (
    id VARCHAR(36) NOT NULL,
    code VARCHAR(6) NOT NULL,
    material_id VARCHAR(36) NOT NULL,
    lot VARCHAR(80) NOT NULL,
    received_on VARCHAR(10) NOT NULL,
    label_net DOUBLE,
    empty DOUBLE,
    heat_limit DOUBLE,
    decision VARCHAR(10),
    note TEXT NOT NULL,
    gone_at DATETIME,
    gone_why VARCHAR(80),
    created_at DATETIME NOT NULL,
    zone VARCHAR(64) NOT NULL,
    revision INTEGER NOT NULL,
    CONSTRAINT pk_spools PRIMARY KEY (id),
    CONSTRAINT ck_spools_decision CHECK (decision IN ('fit', 'dry first', 'reject')),
    CONSTRAINT ck_spools_label_net CHECK (label_net > 0),
    CONSTRAINT ck_spools_empty CHECK (empty >= 0),
    CONSTRAINT uq_spools_code UNIQUE (code),
    CONSTRAINT fk_spools_material_id FOREIGN KEY(material_id) REFERENCES materials (id)
)""",
     "id, code, material_id, lot, received_on, label_net, empty, heat_limit, decision, note, gone_at, gone_why, created_at, zone, revision",
     "id, code, material_id, lot, received_on, label_net, empty, heat_limit, verdict, note, gone_at, gone_why, created_at, zone, revision"),
    ("intakes", "intakes",
     """CREATE TABLE new_intakes (
    id VARCHAR(36) NOT NULL,
    spool_id VARCHAR(36) NOT NULL,
    happened_at DATETIME NOT NULL,
    zone VARCHAR(64) NOT NULL,
    who VARCHAR(80) NOT NULL,
    findings JSON NOT NULL,
    reasons JSON NOT NULL,
    proposed VARCHAR(10) NOT NULL,
    decision VARCHAR(10) NOT NULL,
    note TEXT NOT NULL,
    CONSTRAINT pk_intakes PRIMARY KEY (id),
    CONSTRAINT ck_intakes_decision CHECK (decision IN ('fit', 'dry first', 'reject')),
    CONSTRAINT ck_intakes_override CHECK (decision = proposed OR note != ''),
    CONSTRAINT fk_intakes_spool_id FOREIGN KEY(spool_id) REFERENCES spools (id)
)""",
     "id, spool_id, happened_at, zone, who, findings, reasons, proposed, decision, note",
     "id, spool_id, happened_at, zone, who, findings, reasons, proposed, verdict, note"),
    ("printers", "printers",
     """CREATE TABLE new_printers (
    id VARCHAR(36) NOT NULL,
    name VARCHAR(80) NOT NULL,
    nozzle DOUBLE,
    hardened BOOLEAN,
    enclosed BOOLEAN,
    bed_surface VARCHAR(80) NOT NULL,
    strand DOUBLE,
    nozzle_hottest DOUBLE,
    bed_hottest DOUBLE,
    chamber_hottest DOUBLE,
    created_at DATETIME NOT NULL,
    revision INTEGER NOT NULL,
    CONSTRAINT pk_printers PRIMARY KEY (id),
    CONSTRAINT uq_printers_name UNIQUE (name)
)""",
     "id, name, nozzle, hardened, enclosed, bed_surface, strand, nozzle_hottest, bed_hottest, chamber_hottest, created_at, revision",
     "id, name, nozzle, hardened, enclosed, plate, strand, nozzle_hottest, bed_hottest, chamber_hottest, created_at, revision"),
    ("sessions", "sessions",
     """CREATE TABLE new_sessions (
    id VARCHAR(36) NOT NULL,
    kind VARCHAR(20) NOT NULL,
    device VARCHAR(80) NOT NULL,
    rig_version_id VARCHAR(36),
    temperature DOUBLE,
    started_at DATETIME NOT NULL,
    due_at DATETIME,
    ended_at DATETIME,
    zone VARCHAR(64) NOT NULL,
    who VARCHAR(80) NOT NULL,
    note TEXT NOT NULL,
    retracted_at DATETIME,
    revision INTEGER NOT NULL,
    CONSTRAINT pk_sessions PRIMARY KEY (id),
    CONSTRAINT ck_sessions_kind CHECK (kind IN ('drying', 'rack')),
    CONSTRAINT ck_sessions_drying CHECK (kind != 'drying' OR (temperature IS NOT NULL AND due_at IS NOT NULL)),
    CONSTRAINT ck_sessions_due CHECK (due_at > started_at),
    CONSTRAINT ck_sessions_ended CHECK (ended_at >= started_at),
    CONSTRAINT fk_sessions_rig_version_id FOREIGN KEY(rig_version_id) REFERENCES rig_versions (id)
)""",
     "id, kind, device, rig_version_id, temperature, started_at, due_at, ended_at, zone, who, note, retracted_at, revision",
     "id, kind, device, NULL, temperature, started_at, due_at, ended_at, zone, who, note, retracted_at, revision"),
    ("session_members", "session_members",
     """CREATE TABLE new_session_members (
    session_id VARCHAR(36) NOT NULL,
    member_kind VARCHAR(10) NOT NULL,
    member_id VARCHAR(36) NOT NULL,
    position INTEGER NOT NULL,
    CONSTRAINT pk_session_members PRIMARY KEY (session_id, member_kind, member_id),
    CONSTRAINT ck_session_members_member_kind CHECK (member_kind IN ('spool', 'run', 'batch', 'specimen')),
    CONSTRAINT fk_session_members_session_id FOREIGN KEY(session_id) REFERENCES sessions (id)
)""",
     "session_id, member_kind, member_id, position",
     "session_id, 'spool', spool_id, position"),
    ("purposes", "uses",
     """CREATE TABLE new_purposes (
    id VARCHAR(36) NOT NULL,
    study_id VARCHAR(36) NOT NULL,
    title VARCHAR(160) NOT NULL,
    seed INTEGER NOT NULL,
    revision INTEGER NOT NULL,
    CONSTRAINT pk_purposes PRIMARY KEY (id),
    CONSTRAINT fk_purposes_study_id FOREIGN KEY(study_id) REFERENCES studies (id)
)""",
     "id, study_id, title, seed, revision",
     "id, study_id, title, seed, revision"),
    ("purpose_criteria", "use_criteria",
     """CREATE TABLE new_purpose_criteria (
    id VARCHAR(36) NOT NULL,
    purpose_id VARCHAR(36) NOT NULL,
    test_id VARCHAR(36) NOT NULL,
    quantity VARCHAR(60) NOT NULL,
    no_use DOUBLE NOT NULL,
    all_needed DOUBLE NOT NULL,
    required DOUBLE,
    weight DOUBLE NOT NULL,
    position INTEGER NOT NULL,
    CONSTRAINT pk_purpose_criteria PRIMARY KEY (id),
    CONSTRAINT uq_purpose_criteria_purpose_id_test_id_quantity UNIQUE (purpose_id, test_id, quantity),
    CONSTRAINT ck_purpose_criteria_weight CHECK (weight >= 0),
    CONSTRAINT ck_purpose_criteria_scale CHECK (no_use != all_needed),
    CONSTRAINT fk_purpose_criteria_purpose_id FOREIGN KEY(purpose_id) REFERENCES purposes (id),
    CONSTRAINT fk_purpose_criteria_test_id FOREIGN KEY(test_id) REFERENCES tests (id)
)""",
     "id, purpose_id, test_id, quantity, no_use, all_needed, required, weight, position",
     "id, use_id, test_id, quantity, no_use, all_needed, required, weight, position"),
    ("arms", "arms",
     """CREATE TABLE new_arms (
    id VARCHAR(36) NOT NULL,
    study_id VARCHAR(36) NOT NULL,
    variant_id VARCHAR(36) NOT NULL,
    mark VARCHAR(2) NOT NULL,
    position INTEGER NOT NULL,
    spool_id VARCHAR(36),
    CONSTRAINT pk_arms PRIMARY KEY (id),
    CONSTRAINT uq_arms_study_id_mark UNIQUE (study_id, mark),
    CONSTRAINT uq_arms_study_id_variant_id UNIQUE (study_id, variant_id),
    CONSTRAINT fk_arms_study_id FOREIGN KEY(study_id) REFERENCES studies (id),
    CONSTRAINT fk_arms_variant_id FOREIGN KEY(variant_id) REFERENCES variants (id),
    CONSTRAINT fk_arms_spool_id FOREIGN KEY(spool_id) REFERENCES spools (id)
)""",
     "id, study_id, variant_id, mark, position, spool_id",
     "id, study_id, variant_id, mark, position, NULL"),
    ("tests", "tests",
     """CREATE TABLE new_tests (
    id VARCHAR(36) NOT NULL,
    study_id VARCHAR(36) NOT NULL,
    method VARCHAR(40) NOT NULL,
    procedure_version VARCHAR(40) NOT NULL,
    orientation VARCHAR(20) NOT NULL,
    shape VARCHAR(40) NOT NULL,
    protocol JSON NOT NULL,
    replicates INTEGER NOT NULL,
    spares INTEGER NOT NULL,
    margin_value DOUBLE NOT NULL,
    margin_relative BOOLEAN NOT NULL,
    position INTEGER NOT NULL,
    revision INTEGER NOT NULL,
    CONSTRAINT pk_tests PRIMARY KEY (id),
    CONSTRAINT ck_tests_replicates CHECK (replicates BETWEEN 1 AND 50),
    CONSTRAINT ck_tests_spares CHECK (spares BETWEEN 0 AND 50),
    CONSTRAINT ck_tests_margin CHECK (margin_value > 0),
    CONSTRAINT fk_tests_study_id FOREIGN KEY(study_id) REFERENCES studies (id)
)""",
     "id, study_id, method, procedure_version, orientation, shape, protocol, replicates, spares, margin_value, margin_relative, position, revision",
     "id, study_id, method, procedure_version, orientation, shape, '{}', replicates, spares, margin_value, margin_relative, position, 1"),
    ("specimens", "specimens",
     """CREATE TABLE new_specimens (
    id VARCHAR(36) NOT NULL,
    code VARCHAR(6) NOT NULL,
    batch_id VARCHAR(36) NOT NULL,
    position INTEGER NOT NULL,
    shape VARCHAR(40) NOT NULL,
    orientation VARCHAR(20) NOT NULL,
    slot_id VARCHAR(36),
    CONSTRAINT pk_specimens PRIMARY KEY (id),
    CONSTRAINT uq_specimens_batch_id_position UNIQUE (batch_id, position),
    CONSTRAINT uq_specimens_code UNIQUE (code),
    CONSTRAINT fk_specimens_batch_id FOREIGN KEY(batch_id) REFERENCES batches (id),
    CONSTRAINT fk_specimens_slot_id FOREIGN KEY(slot_id) REFERENCES slots (id)
)""",
     "id, code, batch_id, position, shape, orientation, slot_id",
     "id, code, batch_id, position, shape, orientation, slot_id"),
    ("rigs", "rigs",
     """CREATE TABLE new_rigs (
    id VARCHAR(36) NOT NULL,
    code VARCHAR(6) NOT NULL,
    name VARCHAR(80) NOT NULL,
    methods JSON NOT NULL,
    CONSTRAINT pk_rigs PRIMARY KEY (id),
    CONSTRAINT uq_rigs_code UNIQUE (code)
)""",
     "id, code, name, methods",
     "id, code, name, json_array(method)"),
    ("rig_versions", "rig_versions",
     """CREATE TABLE new_rig_versions (
    id VARCHAR(36) NOT NULL,
    rig_id VARCHAR(36) NOT NULL,
    number INTEGER NOT NULL,
    valid_from DATETIME NOT NULL,
    compliance DOUBLE NOT NULL,
    geometry JSON NOT NULL,
    places INTEGER NOT NULL,
    note TEXT NOT NULL,
    revision INTEGER NOT NULL,
    CONSTRAINT pk_rig_versions PRIMARY KEY (id),
    CONSTRAINT uq_rig_versions_rig_id_number UNIQUE (rig_id, number),
    CONSTRAINT ck_rig_versions_compliance CHECK (compliance >= 0),
    CONSTRAINT ck_rig_versions_places CHECK (places BETWEEN 1 AND 99),
    CONSTRAINT fk_rig_versions_rig_id FOREIGN KEY(rig_id) REFERENCES rigs (id)
)""",
     "id, rig_id, number, valid_from, compliance, geometry, places, note, revision",
     "id, rig_id, number, valid_from, compliance, '{}', 1, '', 1"),
    ("calibrations", "calibrations",
     """CREATE TABLE new_calibrations (
    id VARCHAR(36) NOT NULL,
    rig_version_id VARCHAR(36) NOT NULL,
    channel VARCHAR(40) NOT NULL,
    factor DOUBLE NOT NULL,
    valid_from DATETIME NOT NULL,
    valid_to DATETIME,
    due_at DATETIME,
    note VARCHAR(200) NOT NULL,
    revision INTEGER NOT NULL,
    retracted_at DATETIME,
    CONSTRAINT pk_calibrations PRIMARY KEY (id),
    CONSTRAINT ck_calibrations_factor CHECK (factor > 0),
    CONSTRAINT ck_calibrations_span CHECK (valid_to > valid_from),
    CONSTRAINT fk_calibrations_rig_version_id FOREIGN KEY(rig_version_id) REFERENCES rig_versions (id)
)""",
     "id, rig_version_id, channel, factor, valid_from, valid_to, due_at, note, revision, retracted_at",
     "id, rig_version_id, quantity, factor, valid_from, valid_to, NULL, '', 1, NULL"),
    ("curves", "curves",
     """CREATE TABLE new_curves (
    id VARCHAR(36) NOT NULL,
    sha256 VARCHAR(64) NOT NULL,
    file_name VARCHAR(200) NOT NULL,
    rows INTEGER NOT NULL,
    columns JSON NOT NULL,
    warnings JSON NOT NULL,
    data BLOB NOT NULL,
    lines BLOB,
    created_at DATETIME NOT NULL,
    CONSTRAINT pk_curves PRIMARY KEY (id)
)""",
     "id, sha256, file_name, rows, columns, warnings, data, lines, created_at",
     "id, sha256, file_name, rows, columns, warnings, data, NULL, created_at"),
    ("runs", "runs",
     """CREATE TABLE new_runs (
    id VARCHAR(36) NOT NULL,
    subject_kind VARCHAR(10) NOT NULL,
    subject_id VARCHAR(36) NOT NULL,
    specimen_id VARCHAR(36),
    test_id VARCHAR(36) NOT NULL,
    procedure_version VARCHAR(40) NOT NULL,
    rig_version_id VARCHAR(36) NOT NULL,
    operator VARCHAR(80) NOT NULL,
    happened_at DATETIME NOT NULL,
    zone VARCHAR(64) NOT NULL,
    validity VARCHAR(10) NOT NULL,
    validity_reason VARCHAR(200),
    validity_by VARCHAR(80),
    validity_at DATETIME,
    outcome VARCHAR(20),
    outcome_place DOUBLE,
    options JSON NOT NULL,
    curve_id VARCHAR(36),
    complete BOOLEAN NOT NULL,
    remarks JSON NOT NULL,
    retracted_at DATETIME,
    revision INTEGER NOT NULL,
    CONSTRAINT pk_runs PRIMARY KEY (id),
    CONSTRAINT ck_runs_validity CHECK (validity IN ('counts', 'at_least', 'at_most', 'left_out')),
    CONSTRAINT ck_runs_reason CHECK (validity != 'left_out' OR validity_reason IS NOT NULL),
    CONSTRAINT ck_runs_outcome_place CHECK (outcome_place IS NULL OR (outcome_place BETWEEN 0 AND 1)),
    CONSTRAINT ck_runs_subject_kind CHECK (subject_kind IN ('specimen', 'batch', 'trial', 'band', 'arm')),
    CONSTRAINT ck_runs_specimen CHECK (subject_kind != 'specimen' OR specimen_id = subject_id),
    CONSTRAINT fk_runs_specimen_id FOREIGN KEY(specimen_id) REFERENCES specimens (id),
    CONSTRAINT fk_runs_test_id FOREIGN KEY(test_id) REFERENCES tests (id),
    CONSTRAINT fk_runs_rig_version_id FOREIGN KEY(rig_version_id) REFERENCES rig_versions (id),
    CONSTRAINT uq_runs_curve_id UNIQUE (curve_id),
    CONSTRAINT fk_runs_curve_id FOREIGN KEY(curve_id) REFERENCES curves (id)
)""",
     "id, subject_kind, subject_id, specimen_id, test_id, procedure_version, rig_version_id, operator, happened_at, zone, validity, validity_reason, validity_by, validity_at, outcome, outcome_place, options, curve_id, complete, remarks, retracted_at, revision",
     "id, 'specimen', specimen_id, specimen_id, test_id, procedure_version, rig_version_id, operator, happened_at, zone, validity, validity_reason, validity_by, validity_at, fracture, fracture_place, options, curve_id, complete, remarks, retracted_at, revision"),
    ("readings", "readings",
     """CREATE TABLE new_readings (
    seq INTEGER NOT NULL,
    id VARCHAR(36) NOT NULL,
    run_id VARCHAR(36) NOT NULL,
    step VARCHAR(40) NOT NULL,
    field VARCHAR(40) NOT NULL,
    position INTEGER NOT NULL,
    happened_at DATETIME NOT NULL,
    entered_at DATETIME NOT NULL,
    zone VARCHAR(64) NOT NULL,
    raw VARCHAR(80) NOT NULL,
    value DOUBLE NOT NULL,
    unit VARCHAR(12) NOT NULL,
    ambient_c DOUBLE,
    load DOUBLE,
    "after" DOUBLE,
    rig_version_id VARCHAR(36),
    entered_by VARCHAR(80) NOT NULL,
    supersedes_id VARCHAR(36),
    reason VARCHAR(200),
    retracted_at DATETIME,
    CONSTRAINT pk_readings PRIMARY KEY (seq),
    CONSTRAINT ck_readings_correction CHECK (supersedes_id IS NULL OR reason IS NOT NULL),
    CONSTRAINT uq_readings_id UNIQUE (id),
    CONSTRAINT fk_readings_run_id FOREIGN KEY(run_id) REFERENCES runs (id),
    CONSTRAINT fk_readings_rig_version_id FOREIGN KEY(rig_version_id) REFERENCES rig_versions (id),
    CONSTRAINT uq_readings_supersedes_id UNIQUE (supersedes_id),
    CONSTRAINT fk_readings_supersedes_id FOREIGN KEY(supersedes_id) REFERENCES readings (id)
)""",
     "seq, id, run_id, step, field, position, happened_at, entered_at, zone, raw, value, unit, ambient_c, load, after, rig_version_id, entered_by, supersedes_id, reason, retracted_at",
     "seq, id, run_id, step, field, position, happened_at, entered_at, zone, raw, value, unit, ambient_c, NULL, NULL, NULL, entered_by, supersedes_id, reason, NULL"),
    ("results", "results",
     """CREATE TABLE new_results (
    seq INTEGER NOT NULL,
    subject_kind VARCHAR(10) NOT NULL,
    subject_id VARCHAR(36) NOT NULL,
    test_id VARCHAR(36) NOT NULL,
    run_id VARCHAR(36),
    quantity VARCHAR(60) NOT NULL,
    value DOUBLE NOT NULL,
    unit VARCHAR(12) NOT NULL,
    bound VARCHAR(10) NOT NULL,
    warnings JSON NOT NULL,
    reduction_version INTEGER NOT NULL,
    log_se DOUBLE,
    df DOUBLE,
    interval_low DOUBLE,
    interval_high DOUBLE,
    reading_step DOUBLE NOT NULL,
    provisional BOOLEAN NOT NULL,
    CONSTRAINT pk_results PRIMARY KEY (seq),
    CONSTRAINT ck_results_subject_kind CHECK (subject_kind IN ('specimen', 'batch', 'trial', 'band', 'arm')),
    CONSTRAINT ck_results_bound CHECK (bound IN ('exact', 'at_least', 'at_most')),
    CONSTRAINT fk_results_test_id FOREIGN KEY(test_id) REFERENCES tests (id),
    CONSTRAINT fk_results_run_id FOREIGN KEY(run_id) REFERENCES runs (id)
)""",
     "seq, subject_kind, subject_id, test_id, run_id, quantity, value, unit, bound, warnings, reduction_version, log_se, df, interval_low, interval_high, reading_step, provisional",
     "seq, subject_kind, subject_id, test_id, run_id, quantity, value, unit, bound, warnings, reduction_version, log_se, df, NULL, NULL, 0, 0"),
]

INDEXES = [
    "CREATE INDEX ix_session_readings_session_id ON session_readings (session_id)",
    "CREATE INDEX ix_spools_material_id ON spools (material_id)",
    "CREATE INDEX ix_intakes_spool_id ON intakes (spool_id)",
    "CREATE INDEX ix_sessions_rig_version_id ON sessions (rig_version_id)",
    "CREATE INDEX ix_sessions_running ON sessions (kind) WHERE ended_at IS NULL AND retracted_at IS NULL",
    "CREATE INDEX ix_session_members_member ON session_members (member_kind, member_id)",
    "CREATE INDEX ix_purposes_study_id ON purposes (study_id)",
    "CREATE INDEX ix_purpose_criteria_purpose_id ON purpose_criteria (purpose_id)",
    "CREATE INDEX ix_arms_variant_id ON arms (variant_id)",
    "CREATE INDEX ix_tests_study_id ON tests (study_id)",
    "CREATE INDEX ix_specimens_slot_id ON specimens (slot_id)",
    "CREATE INDEX ix_rig_versions_rig_id ON rig_versions (rig_id)",
    "CREATE INDEX ix_calibrations_rig_version_id ON calibrations (rig_version_id)",
    "CREATE INDEX ix_runs_rig_version_id ON runs (rig_version_id)",
    "CREATE INDEX ix_runs_specimen_id ON runs (specimen_id)",
    "CREATE INDEX ix_runs_test_id ON runs (test_id)",
    "CREATE UNIQUE INDEX uq_runs_standing ON runs (subject_kind, subject_id, test_id) WHERE retracted_at IS NULL",
    "CREATE INDEX ix_readings_run_id ON readings (run_id)",
    "CREATE INDEX ix_results_run_id ON results (run_id)",
    "CREATE INDEX ix_results_subject ON results (subject_kind, subject_id)",
    "CREATE INDEX ix_results_test ON results (test_id, quantity)",
]
# fmt: on


def upgrade() -> None:
    for ddl in NEW:
        op.execute(ddl)
    channels_of_rigs()
    op.execute("DELETE FROM results WHERE subject_kind = 'arm'")  # ratios are derived when they are asked for
    op.execute(
        "UPDATE runs SET options = json_object('modulus_range', json_extract(options, '$.modulus_window')) WHERE json_extract(options, '$.modulus_window') IS NOT NULL"
    )
    # the section of the short pull bar was widened: what was printed of the former one stays apart
    for table in ("tests", "specimens"):
        op.execute(f"UPDATE {table} SET shape = 'short-pull-bar-4' WHERE shape = 'short-pull-bar'")
    for name, old, ddl, columns, values in AGAIN:
        op.execute(ddl)
        op.execute(f"INSERT INTO new_{name} ({columns}) SELECT {values} FROM {old} ORDER BY rowid")
        op.execute(f"DROP TABLE {old}")
        op.execute(f"ALTER TABLE new_{name} RENAME TO {name}")
    op.execute("DROP TABLE column_summaries")
    for ddl in INDEXES:
        op.execute(ddl)
    variants_across_studies()


def channels_of_rigs() -> None:
    """What a rig's displays show becomes its channels; the capacity is the range of the force, in the unit shown."""
    connection = op.get_bind()
    to_newton = {"N": 1.0, "kN": 1e3, "daN": 10.0, "mN": 1e-3, "kgf": 9.80665, "gf": 9.80665e-3, "lbf": 4.4482216152605, "ozf": 0.27801385095378}
    rows = connection.execute(sa.text("SELECT id, force_unit, force_step, length_unit, length_step, capacity FROM rig_versions")).all()
    insert = sa.text(
        "INSERT INTO rig_channels (id, rig_version_id, name, dimension, unit, decimals, step, low, high, position)"
        " VALUES (:id, :version, :name, :name, :unit, 0, :step, NULL, :high, :position)"
    )
    for row in rows:
        high = None if row.capacity is None else row.capacity / to_newton.get(row.force_unit, 1.0)
        for position, (name, unit, step, top) in enumerate(
            (("force", row.force_unit, row.force_step, high), ("length", row.length_unit, row.length_step, None))
        ):
            # an id of its own that a second run would make again: the version's, told apart by its last digit
            own = row.id[:-1] + "ab"[position] if row.id[-1] not in "ab" else row.id[:-1] + "cd"[position]
            connection.execute(insert, {"id": own, "version": row.id, "name": name, "unit": unit, "step": step, "high": top, "position": position})


def variants_across_studies() -> None:
    """One variant for a material, sheet and treatment: those that each study made anew are put together."""
    connection = op.get_bind()
    sheets: dict[tuple[object, ...], str] = {}
    for row in connection.execute(sa.text('SELECT id, name, "values" AS vals, parent_id FROM settings_sheets ORDER BY created_at, id')).all():
        first = sheets.setdefault((row.name, row.vals, row.parent_id), row.id)
        if first != row.id:
            _merge_sheet(connection, row.id, first)


def _merge_sheet(connection: sa.Connection, old: str, kept: str) -> None:
    for row in connection.execute(sa.text("SELECT id, material_id, treatment FROM variants WHERE sheet_id = :s"), {"s": old}).all():
        twin = connection.execute(
            sa.text("SELECT id FROM variants WHERE sheet_id = :s AND material_id = :m AND treatment = :t"),
            {"s": kept, "m": row.material_id, "t": row.treatment},
        ).scalar()
        if twin is None:
            connection.execute(sa.text("UPDATE variants SET sheet_id = :s WHERE id = :v"), {"s": kept, "v": row.id})
            continue
        for table in ("arms", "batches"):
            connection.execute(sa.text(f"UPDATE {table} SET variant_id = :t WHERE variant_id = :v"), {"t": twin, "v": row.id})
        connection.execute(sa.text("DELETE FROM variants WHERE id = :v"), {"v": row.id})
    connection.execute(sa.text("UPDATE settings_sheets SET parent_id = :k WHERE parent_id = :o"), {"k": kept, "o": old})
    connection.execute(sa.text("DELETE FROM settings_sheets WHERE id = :o"), {"o": old})


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
