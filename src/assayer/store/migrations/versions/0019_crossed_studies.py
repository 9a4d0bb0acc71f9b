"""Studies whose arms cross materials with a treatment, a setting, a printer or a rig."""

from alembic import op

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE studies ADD COLUMN crosses_materials BOOLEAN DEFAULT 0 NOT NULL")
    # several materials in a study of something else were crossed with it already, without being said so
    op.execute(
        "UPDATE studies SET crosses_materials = 1 WHERE studied_factor IN ('setting', 'treatment', 'printer', 'rig') AND (SELECT count(DISTINCT v.material_id)"
        " FROM arms a JOIN variants v ON v.id = a.variant_id WHERE a.study_id = studies.id) > 1"
    )


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
