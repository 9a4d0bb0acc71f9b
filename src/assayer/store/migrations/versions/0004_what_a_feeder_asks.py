"""What a spool's body is and a feeder asks, what a material gives off, what became of a product, and studies put away."""

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

# fmt: off
ADDED = {
    "materials": [
        "withdrawn_on VARCHAR(10)",
        "succeeds_id VARCHAR(36) CONSTRAINT fk_materials_succeeds_id REFERENCES materials (id)",
        "base_id VARCHAR(36) CONSTRAINT fk_materials_base_id REFERENCES materials (id)",
    ],
    "maker_windows": ["fumes BOOLEAN", "dust BOOLEAN"],
    "spools": [
        "body VARCHAR(10) DEFAULT '' NOT NULL CONSTRAINT ck_spools_body CHECK (body IN ('', 'plastic', 'cardboard', 'refill'))",
        "bore DOUBLE CONSTRAINT ck_spools_bore CHECK (bore > 0)",
        "loose_end VARCHAR(12) DEFAULT '' NOT NULL CONSTRAINT ck_spools_loose_end CHECK (loose_end IN ('', 'straight', 'bent', 'under a turn'))",
    ],
    "printers": ["extraction BOOLEAN", "holder DOUBLE", "drives_rims BOOLEAN", "takes_refills BOOLEAN", "loads_itself BOOLEAN"],
    "studies": ["put_away_at DATETIME"],
}
# fmt: on


def upgrade() -> None:
    for table, columns in ADDED.items():
        for column in columns:
            op.execute(f"ALTER TABLE {table} ADD COLUMN {column}")


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
