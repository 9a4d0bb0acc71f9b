"""Decisions on doubts about results."""

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        """CREATE TABLE doubt_decisions (
            id VARCHAR(36) NOT NULL,
            study_id VARCHAR(36) NOT NULL,
            doubt VARCHAR(200) NOT NULL,
            evidence TEXT NOT NULL,
            kind VARCHAR(10) NOT NULL,
            note TEXT NOT NULL,
            slot_ids JSON NOT NULL,
            decided_at DATETIME NOT NULL,
            zone VARCHAR(64) NOT NULL,
            who VARCHAR(80) NOT NULL,
            revision INTEGER NOT NULL,
            retracted_at DATETIME,
            CONSTRAINT pk_doubt_decisions PRIMARY KEY (id),
            CONSTRAINT ck_doubt_decisions_kind CHECK (kind IN ('note', 'retest')),
            CONSTRAINT ck_doubt_decisions_note CHECK (kind != 'note' OR note != ''),
            CONSTRAINT fk_doubt_decisions_study_id FOREIGN KEY(study_id) REFERENCES studies (id)
        )"""
    )
    op.execute("CREATE INDEX ix_doubt_decisions_study_id ON doubt_decisions (study_id)")
    op.execute("CREATE UNIQUE INDEX uq_doubt_decisions ON doubt_decisions (study_id, doubt, evidence) WHERE retracted_at IS NULL")


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
