"""What grows without end is found by what it is asked for: the record of an object, misprints of a slot."""

from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # an object is asked for by its id alone, whatever it is
    op.execute("DROP INDEX ix_changes_entity")
    op.execute("CREATE INDEX ix_changes_entity_id ON changes (entity_id)")
    # a specimen's run in one test, where the index of tests alone would be taken to read all runs of it
    op.execute("DROP INDEX ix_runs_specimen_id")
    op.execute("CREATE INDEX ix_runs_specimen_id ON runs (specimen_id, test_id)")
    op.execute("CREATE INDEX ix_specimens_planned_slot_id ON specimens (planned_slot_id) WHERE planned_slot_id IS NOT NULL")


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
