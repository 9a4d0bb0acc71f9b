"""A reading may tell what of the specimen it is of: a feature, a named size, a grader; tests that a lab defines itself."""

from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


MADE = [
    "ALTER TABLE readings ADD COLUMN about VARCHAR(80)",
    "CREATE TABLE own_method_versions ( id VARCHAR(36) NOT NULL, family VARCHAR(36) NOT NULL, number INTEGER NOT NULL, method VARCHAR(40) NOT NULL, "
    "label VARCHAR(80) NOT NULL, definition JSON NOT NULL, added_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, "
    "withdrawn_at DATETIME, revision INTEGER NOT NULL, CONSTRAINT pk_own_method_versions PRIMARY KEY (id), "
    "CONSTRAINT uq_own_method_versions_family_number UNIQUE (family, number), CONSTRAINT uq_own_method_versions_method UNIQUE (method) )",
    "ALTER TABLE studies ADD COLUMN bounds_in BOOLEAN NOT NULL DEFAULT 0",
    "CREATE INDEX ix_own_method_versions_family ON own_method_versions (family)",
]


def upgrade() -> None:
    for statement in MADE:
        op.execute(statement)


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
