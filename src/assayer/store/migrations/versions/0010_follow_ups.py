"""Follow-ups: what somebody wants to look at again, on any object."""

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


MADE = [
    "CREATE TABLE follow_ups ( id VARCHAR(36) NOT NULL, object_kind VARCHAR(20) NOT NULL, object_id VARCHAR(36) NOT NULL, text VARCHAR(200) NOT NULL, "
    "due_on VARCHAR(10) NOT NULL, done_at DATETIME, set_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, "
    "revision INTEGER NOT NULL, retracted_at DATETIME, CONSTRAINT pk_follow_ups PRIMARY KEY (id) )",
    "CREATE INDEX ix_follow_ups_object ON follow_ups (object_kind, object_id)",
    "CREATE INDEX ix_follow_ups_due_on ON follow_ups (due_on)",
]


def upgrade() -> None:
    for statement in MADE:
        op.execute(statement)


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
