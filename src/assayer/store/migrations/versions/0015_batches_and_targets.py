"""Print batches that an arm is planned in, and the difference that a test is to detect."""

from alembic import op

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE studies ADD COLUMN batches INTEGER NOT NULL DEFAULT 2")
    op.execute("ALTER TABLE tests ADD COLUMN target DOUBLE")


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
