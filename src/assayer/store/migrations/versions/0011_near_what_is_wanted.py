"""Criteria that ask for a value, not for a side: how near to what is wanted."""

from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE purpose_criteria ADD COLUMN near BOOLEAN NOT NULL DEFAULT 0")


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
