"""Stock: makers' windows, claims, spools, intakes, sessions, weighings, storage, printers."""

import sqlalchemy as sa
from alembic import op

import assayer.store.types

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "preferences",
        sa.Column("key", sa.String(length=40), nullable=False),
        sa.Column("value", sa.String(length=400), nullable=False),
        sa.PrimaryKeyConstraint("key", name=op.f("pk_preferences")),
    )
    op.create_table(
        "printers",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("nozzle", sa.Double(), nullable=True),
        sa.Column("hardened", sa.Boolean(), nullable=True),
        sa.Column("enclosed", sa.Boolean(), nullable=True),
        sa.Column("plate", sa.String(length=80), nullable=False),
        sa.Column("strand", sa.Double(), nullable=True),
        sa.Column("nozzle_hottest", sa.Double(), nullable=True),
        sa.Column("bed_hottest", sa.Double(), nullable=True),
        sa.Column("chamber_hottest", sa.Double(), nullable=True),
        sa.Column("created_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_printers")),
        sa.UniqueConstraint("name", name=op.f("uq_printers_name")),
    )
    op.create_table(
        "sessions",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("kind", sa.String(length=20), nullable=False),
        sa.Column("device", sa.String(length=80), nullable=False),
        sa.Column("temperature", sa.Double(), nullable=False),
        sa.Column("started_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("due_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("ended_at", assayer.store.types.Instant(), nullable=True),
        sa.Column("zone", sa.String(length=64), nullable=False),
        sa.Column("who", sa.String(length=80), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("retracted_at", assayer.store.types.Instant(), nullable=True),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.CheckConstraint("kind IN ('drying')", name=op.f("ck_sessions_kind")),
        sa.CheckConstraint("due_at > started_at", name=op.f("ck_sessions_due")),
        sa.CheckConstraint("ended_at >= started_at", name=op.f("ck_sessions_ended")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_sessions")),
    )
    with op.batch_alter_table("sessions", schema=None) as batch_op:
        batch_op.create_index("ix_sessions_running", ["kind"], unique=False, sqlite_where=sa.text("ended_at IS NULL AND retracted_at IS NULL"))

    op.create_table(
        "claims",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("material_id", sa.String(length=36), nullable=False),
        sa.Column("text", sa.String(length=400), nullable=False),
        sa.Column("quantity", sa.String(length=40), nullable=True),
        sa.Column("relation", sa.String(length=12), nullable=False),
        sa.Column("value", sa.Double(), nullable=True),
        sa.Column("unit", sa.String(length=12), nullable=False),
        sa.Column("reference", sa.String(length=120), nullable=False),
        sa.Column("method", sa.String(length=80), nullable=False),
        sa.Column("source", sa.String(length=200), nullable=False),
        sa.Column("entered_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("entered_by", sa.String(length=80), nullable=False),
        sa.Column("retracted_at", assayer.store.types.Instant(), nullable=True),
        sa.ForeignKeyConstraint(["material_id"], ["materials.id"], name=op.f("fk_claims_material_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_claims")),
    )
    with op.batch_alter_table("claims", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_claims_material_id"), ["material_id"], unique=False)

    op.create_table(
        "maker_windows",
        sa.Column("material_id", sa.String(length=36), nullable=False),
        sa.Column("nozzle_low", sa.Double(), nullable=True),
        sa.Column("nozzle_high", sa.Double(), nullable=True),
        sa.Column("bed_low", sa.Double(), nullable=True),
        sa.Column("bed_high", sa.Double(), nullable=True),
        sa.Column("chamber_low", sa.Double(), nullable=True),
        sa.Column("chamber_high", sa.Double(), nullable=True),
        sa.Column("speed_low", sa.Double(), nullable=True),
        sa.Column("speed_high", sa.Double(), nullable=True),
        sa.Column("flow_max", sa.Double(), nullable=True),
        sa.Column("dry_temperature", sa.Double(), nullable=True),
        sa.Column("dry_time", sa.Double(), nullable=True),
        sa.Column("dry_limit", sa.Double(), nullable=True),
        sa.Column("nozzle_min", sa.Double(), nullable=True),
        sa.Column("hardened", sa.Boolean(), nullable=True),
        sa.Column("enclosure", sa.Boolean(), nullable=True),
        sa.Column("plate", sa.String(length=80), nullable=False),
        sa.Column("adhesive", sa.String(length=80), nullable=False),
        sa.Column("tolerance", sa.Double(), nullable=True),
        sa.Column("source", sa.String(length=200), nullable=False),
        sa.CheckConstraint("bed_low <= bed_high", name=op.f("ck_maker_windows_bed")),
        sa.CheckConstraint("chamber_low <= chamber_high", name=op.f("ck_maker_windows_chamber")),
        sa.CheckConstraint("nozzle_low <= nozzle_high", name=op.f("ck_maker_windows_nozzle")),
        sa.CheckConstraint("speed_low <= speed_high", name=op.f("ck_maker_windows_speed")),
        sa.ForeignKeyConstraint(["material_id"], ["materials.id"], name=op.f("fk_maker_windows_material_id")),
        sa.PrimaryKeyConstraint("material_id", name=op.f("pk_maker_windows")),
    )
    op.create_table(
        "reported_results",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("material_id", sa.String(length=36), nullable=False),
        sa.Column("quantity", sa.String(length=80), nullable=False),
        sa.Column("value", sa.Double(), nullable=False),
        sa.Column("unit", sa.String(length=12), nullable=False),
        sa.Column("n", sa.Integer(), nullable=True),
        sa.Column("sd", sa.Double(), nullable=True),
        sa.Column("method", sa.String(length=80), nullable=False),
        sa.Column("source", sa.String(length=200), nullable=False),
        sa.Column("reported_on", sa.String(length=20), nullable=False),
        sa.Column("entered_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("entered_by", sa.String(length=80), nullable=False),
        sa.Column("retracted_at", assayer.store.types.Instant(), nullable=True),
        sa.ForeignKeyConstraint(["material_id"], ["materials.id"], name=op.f("fk_reported_results_material_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_reported_results")),
    )
    with op.batch_alter_table("reported_results", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_reported_results_material_id"), ["material_id"], unique=False)

    op.create_table(
        "spools",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("code", sa.String(length=6), nullable=False),
        sa.Column("material_id", sa.String(length=36), nullable=False),
        sa.Column("lot", sa.String(length=80), nullable=False),
        sa.Column("received_on", sa.String(length=10), nullable=False),
        sa.Column("label_net", sa.Double(), nullable=True),
        sa.Column("empty", sa.Double(), nullable=True),
        sa.Column("heat_limit", sa.Double(), nullable=True),
        sa.Column("verdict", sa.String(length=10), nullable=True),
        sa.Column("note", sa.Text(), nullable=False),
        sa.Column("gone_at", assayer.store.types.Instant(), nullable=True),
        sa.Column("gone_why", sa.String(length=80), nullable=True),
        sa.Column("created_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("zone", sa.String(length=64), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.CheckConstraint("verdict IN ('fit', 'dry first', 'reject')", name=op.f("ck_spools_verdict")),
        sa.CheckConstraint("empty >= 0", name=op.f("ck_spools_empty")),
        sa.CheckConstraint("label_net > 0", name=op.f("ck_spools_label_net")),
        sa.ForeignKeyConstraint(["material_id"], ["materials.id"], name=op.f("fk_spools_material_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_spools")),
        sa.UniqueConstraint("code", name=op.f("uq_spools_code")),
    )
    with op.batch_alter_table("spools", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_spools_material_id"), ["material_id"], unique=False)

    op.create_table(
        "intakes",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("spool_id", sa.String(length=36), nullable=False),
        sa.Column("happened_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("zone", sa.String(length=64), nullable=False),
        sa.Column("who", sa.String(length=80), nullable=False),
        sa.Column("findings", sa.JSON(), nullable=False),
        sa.Column("reasons", sa.JSON(), nullable=False),
        sa.Column("proposed", sa.String(length=10), nullable=False),
        sa.Column("verdict", sa.String(length=10), nullable=False),
        sa.Column("note", sa.Text(), nullable=False),
        sa.CheckConstraint("verdict = proposed OR note != ''", name=op.f("ck_intakes_override")),
        sa.CheckConstraint("verdict IN ('fit', 'dry first', 'reject')", name=op.f("ck_intakes_verdict")),
        sa.ForeignKeyConstraint(["spool_id"], ["spools.id"], name=op.f("fk_intakes_spool_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_intakes")),
    )
    with op.batch_alter_table("intakes", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_intakes_spool_id"), ["spool_id"], unique=False)

    op.create_table(
        "session_members",
        sa.Column("session_id", sa.String(length=36), nullable=False),
        sa.Column("spool_id", sa.String(length=36), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(["session_id"], ["sessions.id"], name=op.f("fk_session_members_session_id")),
        sa.ForeignKeyConstraint(["spool_id"], ["spools.id"], name=op.f("fk_session_members_spool_id")),
        sa.PrimaryKeyConstraint("session_id", "spool_id", name=op.f("pk_session_members")),
    )
    with op.batch_alter_table("session_members", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_session_members_spool_id"), ["spool_id"], unique=False)

    op.create_table(
        "storage_moves",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("spool_id", sa.String(length=36), nullable=False),
        sa.Column("at", assayer.store.types.Instant(), nullable=False),
        sa.Column("entered_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("zone", sa.String(length=64), nullable=False),
        sa.Column("who", sa.String(length=80), nullable=False),
        sa.Column("storage", sa.String(length=12), nullable=False),
        sa.Column("place", sa.String(length=80), nullable=False),
        sa.Column("humidity", sa.Double(), nullable=True),
        sa.Column("retracted_at", assayer.store.types.Instant(), nullable=True),
        sa.CheckConstraint("storage IN ('sealed bag', 'dry box', 'open')", name=op.f("ck_storage_moves_storage")),
        sa.CheckConstraint("humidity BETWEEN 0 AND 100", name=op.f("ck_storage_moves_humidity")),
        sa.ForeignKeyConstraint(["spool_id"], ["spools.id"], name=op.f("fk_storage_moves_spool_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_storage_moves")),
    )
    with op.batch_alter_table("storage_moves", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_storage_moves_spool_id"), ["spool_id"], unique=False)

    op.create_table(
        "weighings",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("spool_id", sa.String(length=36), nullable=False),
        sa.Column("at", assayer.store.types.Instant(), nullable=False),
        sa.Column("entered_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("zone", sa.String(length=64), nullable=False),
        sa.Column("who", sa.String(length=80), nullable=False),
        sa.Column("raw", sa.String(length=80), nullable=False),
        sa.Column("gross", sa.Double(), nullable=False),
        sa.Column("session_id", sa.String(length=36), nullable=True),
        sa.Column("moment", sa.String(length=10), nullable=False),
        sa.Column("retracted_at", assayer.store.types.Instant(), nullable=True),
        sa.CheckConstraint("moment IN ('intake', 'check', 'before', 'after')", name=op.f("ck_weighings_moment")),
        sa.CheckConstraint("gross > 0", name=op.f("ck_weighings_gross")),
        sa.ForeignKeyConstraint(["session_id"], ["sessions.id"], name=op.f("fk_weighings_session_id")),
        sa.ForeignKeyConstraint(["spool_id"], ["spools.id"], name=op.f("fk_weighings_spool_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_weighings")),
    )
    with op.batch_alter_table("weighings", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_weighings_session_id"), ["session_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_weighings_spool_id"), ["spool_id"], unique=False)

    op.create_table(
        "filament_uses",
        sa.Column("id", sa.String(length=36), nullable=False),
        sa.Column("spool_id", sa.String(length=36), nullable=False),
        sa.Column("batch_id", sa.String(length=36), nullable=True),
        sa.Column("at", assayer.store.types.Instant(), nullable=False),
        sa.Column("entered_at", assayer.store.types.Instant(), nullable=False),
        sa.Column("zone", sa.String(length=64), nullable=False),
        sa.Column("who", sa.String(length=80), nullable=False),
        sa.Column("mass", sa.Double(), nullable=False),
        sa.Column("what", sa.String(length=200), nullable=False),
        sa.Column("retracted_at", assayer.store.types.Instant(), nullable=True),
        sa.CheckConstraint("mass > 0", name=op.f("ck_filament_uses_mass")),
        sa.ForeignKeyConstraint(["batch_id"], ["batches.id"], name=op.f("fk_filament_uses_batch_id")),
        sa.ForeignKeyConstraint(["spool_id"], ["spools.id"], name=op.f("fk_filament_uses_spool_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_filament_uses")),
    )
    with op.batch_alter_table("filament_uses", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_filament_uses_batch_id"), ["batch_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_filament_uses_spool_id"), ["spool_id"], unique=False)

    op.create_table(
        "spool_readings",
        sa.Column("seq", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("intake_id", sa.String(length=36), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("raw", sa.String(length=80), nullable=False),
        sa.Column("value", sa.Double(), nullable=False),
        sa.Column("entered_at", assayer.store.types.Instant(), nullable=False),
        sa.ForeignKeyConstraint(["intake_id"], ["intakes.id"], name=op.f("fk_spool_readings_intake_id")),
        sa.PrimaryKeyConstraint("seq", name=op.f("pk_spool_readings")),
        sa.UniqueConstraint("intake_id", "position", name=op.f("uq_spool_readings_intake_id_position")),
    )
    # columns are added in place: making a table anew would drop it under the rows that point at it
    op.execute("ALTER TABLE batches ADD COLUMN spool_id VARCHAR(36) CONSTRAINT fk_batches_spool_id REFERENCES spools (id)")
    op.create_index("ix_batches_spool_id", "batches", ["spool_id"])
    for column in (
        "diameter DOUBLE NOT NULL DEFAULT '1.75' CONSTRAINT ck_materials_diameter CHECK (diameter > 0)",
        "density DOUBLE CONSTRAINT ck_materials_density CHECK (density IS NULL OR density > 0)",
        "price DOUBLE CONSTRAINT ck_materials_price CHECK (price IS NULL OR price >= 0)",
        "currency VARCHAR(3) NOT NULL DEFAULT ''",
        "net_mass DOUBLE CONSTRAINT ck_materials_net_mass CHECK (net_mass IS NULL OR net_mass > 0)",
        "obtained VARCHAR(10) NOT NULL DEFAULT '' CONSTRAINT ck_materials_obtained CHECK (obtained IN ('', 'bought', 'sent free', 'own'))",
        "note TEXT NOT NULL DEFAULT ''",
        "revision INTEGER NOT NULL DEFAULT '1'",
        "doubts INTEGER NOT NULL DEFAULT '0'",
    ):
        op.execute(f"ALTER TABLE materials ADD COLUMN {column}")
    op.create_index("ix_materials_doubts", "materials", ["doubts"], sqlite_where=sa.text("doubts > 0"))


def downgrade() -> None:
    raise NotImplementedError("a newer notebook is not opened by an older Assayer")
