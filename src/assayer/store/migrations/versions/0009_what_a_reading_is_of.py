"""A reading may tell what of the specimen it is of: a feature, a named size, a grader."""

from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE readings ADD COLUMN about VARCHAR(80)")


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
