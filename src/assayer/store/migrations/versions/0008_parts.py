"""Parts of one's own and the places on them; codes that are sunk into specimens."""

from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

MADE = [
    "CREATE TABLE parts ( id VARCHAR(36) NOT NULL, name VARCHAR(80) NOT NULL, note TEXT NOT NULL, file_name VARCHAR(200) NOT NULL, "
    "sha256 VARCHAR(64) NOT NULL, unit VARCHAR(2) NOT NULL, objects INTEGER NOT NULL, length DOUBLE NOT NULL, width DOUBLE NOT NULL, "
    "height DOUBLE NOT NULL, volume DOUBLE NOT NULL, triangles INTEGER NOT NULL, views JSON NOT NULL, standings JSON NOT NULL, "
    "solid BLOB NOT NULL, added_at DATETIME NOT NULL, zone VARCHAR(64) NOT NULL, who VARCHAR(80) NOT NULL, revision INTEGER NOT NULL, "
    "retracted_at DATETIME, CONSTRAINT pk_parts PRIMARY KEY (id) )",
    "CREATE TABLE part_places ( id VARCHAR(36) NOT NULL, part_id VARCHAR(36) NOT NULL, position INTEGER NOT NULL, kind VARCHAR(10) NOT NULL, "
    'label VARCHAR(80) NOT NULL, "view" VARCHAR(10) NOT NULL, u DOUBLE NOT NULL, v DOUBLE NOT NULL, nominal DOUBLE, '
    "CONSTRAINT pk_part_places PRIMARY KEY (id), CONSTRAINT fk_part_places_part_id FOREIGN KEY(part_id) REFERENCES parts (id) )",
    "CREATE INDEX ix_part_places_part_id ON part_places (part_id)",
    "ALTER TABLE plate_places ADD COLUMN code VARCHAR(8)",
    "CREATE INDEX ix_plate_places_code ON plate_places (code)",
]


def upgrade() -> None:
    for statement in MADE:
        op.execute(statement)


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
