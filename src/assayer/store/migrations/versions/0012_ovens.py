"""Ovens with several specimens in them: sessions of a test, and what was noted at each."""

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

# the table is made anew, as its checks change; foreign keys are off meanwhile and checked afterwards (see Database.migrate)
MADE = [
    """CREATE TABLE new_sessions (
    id VARCHAR(36) NOT NULL,
    kind VARCHAR(20) NOT NULL,
    device VARCHAR(80) NOT NULL,
    rig_version_id VARCHAR(36),
    test_id VARCHAR(36),
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
    CONSTRAINT ck_sessions_kind CHECK (kind IN ('drying', 'rack', 'oven')),
    CONSTRAINT ck_sessions_drying CHECK (kind != 'drying' OR (temperature IS NOT NULL AND due_at IS NOT NULL)),
    CONSTRAINT ck_sessions_oven CHECK (kind != 'oven' OR (rig_version_id IS NOT NULL AND test_id IS NOT NULL)),
    CONSTRAINT ck_sessions_due CHECK (due_at > started_at),
    CONSTRAINT ck_sessions_ended CHECK (ended_at >= started_at),
    CONSTRAINT fk_sessions_rig_version_id FOREIGN KEY(rig_version_id) REFERENCES rig_versions (id),
    CONSTRAINT fk_sessions_test_id FOREIGN KEY(test_id) REFERENCES tests (id)
)""",
    """INSERT INTO new_sessions (id, kind, device, rig_version_id, temperature, started_at, due_at, ended_at, zone, who, note, retracted_at, revision)
    SELECT id, kind, device, rig_version_id, temperature, started_at, due_at, ended_at, zone, who, note, retracted_at, revision FROM sessions ORDER BY rowid""",
    "DROP TABLE sessions",
    "ALTER TABLE new_sessions RENAME TO sessions",
    "CREATE INDEX ix_sessions_rig_version_id ON sessions (rig_version_id)",
    "CREATE INDEX ix_sessions_test_id ON sessions (test_id)",
    "CREATE INDEX ix_sessions_running ON sessions (kind) WHERE ended_at IS NULL AND retracted_at IS NULL",
    "ALTER TABLE session_members ADD COLUMN run_id VARCHAR(36)",
    """CREATE TABLE oven_notes (
    seq INTEGER NOT NULL,
    id VARCHAR(36) NOT NULL,
    session_id VARCHAR(36) NOT NULL,
    what VARCHAR(10) NOT NULL,
    specimen_id VARCHAR(36),
    field VARCHAR(40),
    raw VARCHAR(80) NOT NULL,
    note_id VARCHAR(36),
    at DATETIME NOT NULL,
    entered_at DATETIME NOT NULL,
    zone VARCHAR(64) NOT NULL,
    entered_by VARCHAR(80) NOT NULL,
    CONSTRAINT pk_oven_notes PRIMARY KEY (seq),
    CONSTRAINT ck_oven_notes_what CHECK (what IN ('shown', 'seen', 'ended', 'left', 'logger', 'step', 'taken back')),
    CONSTRAINT ck_oven_notes_specimen CHECK ((what IN ('seen', 'ended', 'left')) = (specimen_id IS NOT NULL)),
    CONSTRAINT ck_oven_notes_field CHECK ((what = 'seen') = (field IS NOT NULL)),
    CONSTRAINT ck_oven_notes_note CHECK ((what = 'taken back') = (note_id IS NOT NULL)),
    CONSTRAINT uq_oven_notes_id UNIQUE (id),
    CONSTRAINT fk_oven_notes_session_id FOREIGN KEY(session_id) REFERENCES sessions (id),
    CONSTRAINT fk_oven_notes_specimen_id FOREIGN KEY(specimen_id) REFERENCES specimens (id),
    CONSTRAINT fk_oven_notes_note_id FOREIGN KEY(note_id) REFERENCES oven_notes (id)
)""",
    "CREATE INDEX ix_oven_notes_session_id ON oven_notes (session_id)",
]


def upgrade() -> None:
    for statement in MADE:
        op.execute(statement)


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
