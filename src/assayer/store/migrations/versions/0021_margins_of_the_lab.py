"""The differences that matter to a lab, by method and quantity."""

from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        """CREATE TABLE lab_margins (
            method VARCHAR(40) NOT NULL,
            quantity VARCHAR(60) NOT NULL,
            value DOUBLE NOT NULL,
            relative BOOLEAN NOT NULL,
            who VARCHAR(80) NOT NULL,
            set_at DATETIME NOT NULL,
            zone VARCHAR(64) NOT NULL,
            CONSTRAINT pk_lab_margins PRIMARY KEY (method, quantity),
            CONSTRAINT ck_lab_margins_value CHECK (value > 0)
        )"""
    )


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
