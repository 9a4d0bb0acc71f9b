"""What an object was made of, as a digest: the same id again with other content is told from the same again."""

from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("CREATE TABLE sent (id VARCHAR(36) NOT NULL, digest BLOB NOT NULL, CONSTRAINT pk_sent PRIMARY KEY (id))")


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
