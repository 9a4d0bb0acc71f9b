"""The reference material of a rig, and conversions between rigs."""

from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE rigs ADD COLUMN reference_material_id VARCHAR(36) REFERENCES materials (id)")
    op.execute(
        """CREATE TABLE rig_conversions (
            id VARCHAR(36) NOT NULL,
            from_version_id VARCHAR(36) NOT NULL,
            to_version_id VARCHAR(36) NOT NULL,
            method VARCHAR(40) NOT NULL,
            orientation VARCHAR(20) NOT NULL,
            shape VARCHAR(40) NOT NULL,
            protocol TEXT NOT NULL,
            quantity VARCHAR(60) NOT NULL,
            ended VARCHAR(80) NOT NULL,
            slope DOUBLE NOT NULL,
            intercept DOUBLE NOT NULL,
            se_slope DOUBLE NOT NULL,
            se_intercept DOUBLE NOT NULL,
            covariance DOUBLE NOT NULL,
            s DOUBLE NOT NULL,
            n INTEGER NOT NULL,
            low DOUBLE NOT NULL,
            high DOUBLE NOT NULL,
            note TEXT NOT NULL,
            accepted_at DATETIME NOT NULL,
            zone VARCHAR(64) NOT NULL,
            who VARCHAR(80) NOT NULL,
            revision INTEGER NOT NULL,
            retracted_at DATETIME,
            CONSTRAINT pk_rig_conversions PRIMARY KEY (id),
            CONSTRAINT ck_rig_conversions_range CHECK (low < high),
            CONSTRAINT ck_rig_conversions_versions CHECK (from_version_id != to_version_id),
            CONSTRAINT fk_rig_conversions_from_version_id FOREIGN KEY(from_version_id) REFERENCES rig_versions (id),
            CONSTRAINT fk_rig_conversions_to_version_id FOREIGN KEY(to_version_id) REFERENCES rig_versions (id)
        )"""
    )
    op.execute("CREATE INDEX ix_rig_conversions_from_version_id ON rig_conversions (from_version_id)")
    op.execute("CREATE INDEX ix_rig_conversions_to_version_id ON rig_conversions (to_version_id)")
    op.execute(
        "CREATE UNIQUE INDEX uq_rig_conversions ON rig_conversions (from_version_id, to_version_id, method, orientation, shape, protocol, quantity, ended)"
        " WHERE retracted_at IS NULL"
    )


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
