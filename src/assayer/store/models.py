"""The objects of the notebook (DESIGN 3), as far as they are built.

Readings, curves and changes are only ever added. Everything derived (results, summaries) can be made anew
from them. Ids are UUIDv7 made by whoever makes the object, the browser included.
"""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, LargeBinary, MetaData, String, Text, UniqueConstraint, text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship

from assayer.store.types import Instant


class Base(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {datetime: Instant, dict[str, Any]: JSON, list[Any]: JSON}


ID = String(36)


class Person(Base):
    __tablename__ = "people"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)


class Material(Base):
    """One colour of one product; materials of the same maker and product are one product line.

    Lengths in mm, density in g/cm³, mass in g.
    """

    __tablename__ = "materials"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    maker: Mapped[str] = mapped_column(String(80))
    product: Mapped[str] = mapped_column(String(80))
    polymer: Mapped[str] = mapped_column(String(40))
    filler: Mapped[str | None] = mapped_column(String(40))
    filler_share: Mapped[float | None]
    colour: Mapped[str] = mapped_column(String(40))
    hex: Mapped[str] = mapped_column(String(7))
    mark: Mapped[str] = mapped_column(String(2))
    created_at: Mapped[datetime]
    diameter: Mapped[float] = mapped_column(default=1.75, server_default="1.75")
    density: Mapped[float | None]
    price: Mapped[float | None]
    currency: Mapped[str] = mapped_column(String(3), default="", server_default="")
    net_mass: Mapped[float | None]
    obtained: Mapped[str] = mapped_column(String(10), default="", server_default="")
    note: Mapped[str] = mapped_column(Text, default="", server_default="")
    revision: Mapped[int] = mapped_column(default=1, server_default="1")
    doubts: Mapped[int] = mapped_column(default=0, server_default="0")
    """How often the maker contradicts itself; derived, written with what it follows from."""
    window: Mapped[MakerWindow | None] = relationship(lazy="select")
    __table_args__ = (
        Index("ix_materials_doubts", "doubts", sqlite_where=text("doubts > 0")),
        CheckConstraint("diameter > 0", name="diameter"),
        CheckConstraint("density IS NULL OR density > 0", name="density"),
        CheckConstraint("price IS NULL OR price >= 0", name="price"),
        CheckConstraint("net_mass IS NULL OR net_mass > 0", name="net_mass"),
        CheckConstraint("obtained IN ('', 'bought', 'sent free', 'own')", name="obtained"),
        CheckConstraint("filler_share IS NULL OR (filler_share > 0 AND filler_share < 100)", name="filler_share"),
        UniqueConstraint("maker", "product", "colour"),
    )


class MakerWindow(Base):
    """What the maker says the material wants; units as in core.filament.window."""

    __tablename__ = "maker_windows"
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), primary_key=True)
    nozzle_low: Mapped[float | None]
    nozzle_high: Mapped[float | None]
    bed_low: Mapped[float | None]
    bed_high: Mapped[float | None]
    chamber_low: Mapped[float | None]
    chamber_high: Mapped[float | None]
    speed_low: Mapped[float | None]
    speed_high: Mapped[float | None]
    flow_max: Mapped[float | None]
    dry_temperature: Mapped[float | None]
    dry_time: Mapped[float | None]
    dry_limit: Mapped[float | None]
    nozzle_min: Mapped[float | None]
    hardened: Mapped[bool | None]
    enclosure: Mapped[bool | None]
    plate: Mapped[str] = mapped_column(String(80), default="")
    adhesive: Mapped[str] = mapped_column(String(80), default="")
    tolerance: Mapped[float | None]
    source: Mapped[str] = mapped_column(String(200), default="")
    __table_args__ = (
        CheckConstraint("nozzle_low <= nozzle_high", name="nozzle"),
        CheckConstraint("bed_low <= bed_high", name="bed"),
        CheckConstraint("chamber_low <= chamber_high", name="chamber"),
        CheckConstraint("speed_low <= speed_high", name="speed"),
    )


class Claim(Base):
    """A statement of the maker, as said; tied to a quantity where its words allow."""

    __tablename__ = "claims"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    text: Mapped[str] = mapped_column(String(400))
    quantity: Mapped[str | None] = mapped_column(String(40))
    relation: Mapped[str] = mapped_column(String(12))
    value: Mapped[float | None]
    unit: Mapped[str] = mapped_column(String(12))
    reference: Mapped[str] = mapped_column(String(120))
    method: Mapped[str] = mapped_column(String(80))
    source: Mapped[str] = mapped_column(String(200))
    entered_at: Mapped[datetime]
    entered_by: Mapped[str] = mapped_column(String(80))
    retracted_at: Mapped[datetime | None]


class ReportedResult(Base):
    """A figure of a lab's past or of somebody else: shown beside measured ones, never averaged with them."""

    __tablename__ = "reported_results"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    quantity: Mapped[str] = mapped_column(String(80))
    value: Mapped[float]
    unit: Mapped[str] = mapped_column(String(12))
    n: Mapped[int | None]
    sd: Mapped[float | None]
    method: Mapped[str] = mapped_column(String(80))
    source: Mapped[str] = mapped_column(String(200))
    reported_on: Mapped[str] = mapped_column(String(20))
    entered_at: Mapped[datetime]
    entered_by: Mapped[str] = mapped_column(String(80))
    retracted_at: Mapped[datetime | None]


class Spool(Base):
    """One spool of a material. Masses in g, temperatures in °C; `verdict` is that of its last intake."""

    __tablename__ = "spools"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    code: Mapped[str] = mapped_column(String(6), unique=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    lot: Mapped[str] = mapped_column(String(80))
    received_on: Mapped[str] = mapped_column(String(10))
    label_net: Mapped[float | None]
    empty: Mapped[float | None]
    heat_limit: Mapped[float | None]
    verdict: Mapped[str | None] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(Text, default="")
    gone_at: Mapped[datetime | None]
    gone_why: Mapped[str | None] = mapped_column(String(80))
    created_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    revision: Mapped[int] = mapped_column(default=1)
    material: Mapped[Material] = relationship()
    __table_args__ = (
        CheckConstraint("verdict IN ('fit', 'dry first', 'reject')", name="verdict"),
        CheckConstraint("label_net > 0", name="label_net"),
        CheckConstraint("empty >= 0", name="empty"),
    )


class Intake(Base):
    """A check of a spool, as found; a later one is a new row."""

    __tablename__ = "intakes"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), index=True)
    happened_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    findings: Mapped[dict[str, Any]]
    reasons: Mapped[list[Any]]
    proposed: Mapped[str] = mapped_column(String(10))
    verdict: Mapped[str] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(Text)
    __table_args__ = (
        CheckConstraint("verdict IN ('fit', 'dry first', 'reject')", name="verdict"),
        CheckConstraint("verdict = proposed OR note != ''", name="override"),
    )


class SpoolReading(Base):
    """One diameter reading, mm; append-only, in the order taken."""

    __tablename__ = "spool_readings"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    intake_id: Mapped[str] = mapped_column(ForeignKey("intakes.id"))
    position: Mapped[int]
    raw: Mapped[str] = mapped_column(String(80))
    value: Mapped[float]
    entered_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("intake_id", "position"),)


class DeviceSession(Base):
    """A run of a device with several members; as yet drying."""

    __tablename__ = "sessions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    device: Mapped[str] = mapped_column(String(80))
    temperature: Mapped[float]
    started_at: Mapped[datetime]
    due_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    note: Mapped[str] = mapped_column(Text, default="")
    retracted_at: Mapped[datetime | None]
    revision: Mapped[int] = mapped_column(default=1)
    members: Mapped[list[SessionMember]] = relationship(order_by="SessionMember.position")
    __table_args__ = (
        CheckConstraint("kind IN ('drying')", name="kind"),
        CheckConstraint("due_at > started_at", name="due"),
        CheckConstraint("ended_at >= started_at", name="ended"),
        Index("ix_sessions_running", "kind", sqlite_where=text("ended_at IS NULL AND retracted_at IS NULL")),
    )


class SessionMember(Base):
    __tablename__ = "session_members"
    session_id: Mapped[str] = mapped_column(ForeignKey("sessions.id"), primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), primary_key=True, index=True)
    position: Mapped[int]
    spool: Mapped[Spool] = relationship()


class Weighing(Base):
    """A spool with its filament on the scales, g. `moment` tells before and after of a session."""

    __tablename__ = "weighings"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), index=True)
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    raw: Mapped[str] = mapped_column(String(80))
    gross: Mapped[float]
    session_id: Mapped[str | None] = mapped_column(ForeignKey("sessions.id"), index=True)
    moment: Mapped[str] = mapped_column(String(10))
    retracted_at: Mapped[datetime | None]
    __table_args__ = (
        CheckConstraint("gross > 0", name="gross"),
        CheckConstraint("moment IN ('intake', 'check', 'before', 'after')", name="moment"),
    )


class FilamentUse(Base):
    """Filament that a print took from a spool, g."""

    __tablename__ = "filament_uses"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), index=True)
    batch_id: Mapped[str | None] = mapped_column(ForeignKey("batches.id"), index=True)
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    mass: Mapped[float]
    what: Mapped[str] = mapped_column(String(200))
    retracted_at: Mapped[datetime | None]
    __table_args__ = (CheckConstraint("mass > 0", name="mass"),)


class StorageMove(Base):
    """A spool put somewhere, or the humidity read where it lies, %."""

    __tablename__ = "storage_moves"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), index=True)
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    storage: Mapped[str] = mapped_column(String(12))
    place: Mapped[str] = mapped_column(String(80))
    humidity: Mapped[float | None]
    retracted_at: Mapped[datetime | None]
    __table_args__ = (
        CheckConstraint("storage IN ('sealed bag', 'dry box', 'open')", name="storage"),
        CheckConstraint("humidity BETWEEN 0 AND 100", name="humidity"),
    )


class Printer(Base):
    """A printer as it stands; mm and °C."""

    __tablename__ = "printers"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    nozzle: Mapped[float | None]
    hardened: Mapped[bool | None]
    enclosed: Mapped[bool | None]
    plate: Mapped[str] = mapped_column(String(80), default="")
    strand: Mapped[float | None]
    nozzle_hottest: Mapped[float | None]
    bed_hottest: Mapped[float | None]
    chamber_hottest: Mapped[float | None]
    created_at: Mapped[datetime]
    revision: Mapped[int] = mapped_column(default=1)


class Preference(Base):
    """A setting of this notebook."""

    __tablename__ = "preferences"
    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[str] = mapped_column(String(400))


class SettingsSheet(Base):
    """Print settings; immutable once used, a change makes a child."""

    __tablename__ = "settings_sheets"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    values: Mapped[dict[str, Any]]
    parent_id: Mapped[str | None] = mapped_column(ForeignKey("settings_sheets.id"))
    created_at: Mapped[datetime]


class Variant(Base):
    """Material + settings sheet + treatment; lives across studies."""

    __tablename__ = "variants"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    sheet_id: Mapped[str] = mapped_column(ForeignKey("settings_sheets.id"))
    treatment: Mapped[str] = mapped_column(String(120), default="")
    material: Mapped[Material] = relationship()
    sheet: Mapped[SettingsSheet] = relationship()
    __table_args__ = (UniqueConstraint("material_id", "sheet_id", "treatment"),)


class Study(Base):
    __tablename__ = "studies"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    title: Mapped[str] = mapped_column(String(160))
    question: Mapped[str] = mapped_column(Text)
    studied_factor: Mapped[str] = mapped_column(String(40))
    seed: Mapped[int]
    reference_arm_id: Mapped[str | None] = mapped_column(ID)
    revision: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))


class Arm(Base):
    """A study's pointer to a variant."""

    __tablename__ = "arms"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"))
    variant_id: Mapped[str] = mapped_column(ForeignKey("variants.id"), index=True)
    mark: Mapped[str] = mapped_column(String(2))
    position: Mapped[int]
    variant: Mapped[Variant] = relationship()
    __table_args__ = (UniqueConstraint("study_id", "mark"), UniqueConstraint("study_id", "variant_id"))


class Test(Base):
    """Method + orientation + shape + replicates within a study."""

    __tablename__ = "tests"
    __test__ = False
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"), index=True)
    method: Mapped[str] = mapped_column(String(40))
    procedure_version: Mapped[str] = mapped_column(String(40))
    orientation: Mapped[str] = mapped_column(String(20))
    shape: Mapped[str] = mapped_column(String(40))
    replicates: Mapped[int]
    spares: Mapped[int] = mapped_column(default=0)
    margin_value: Mapped[float]
    margin_relative: Mapped[bool]
    position: Mapped[int]
    __table_args__ = (
        CheckConstraint("replicates BETWEEN 1 AND 50", name="replicates"),
        CheckConstraint("spares BETWEEN 0 AND 50", name="spares"),
        CheckConstraint("margin_value > 0", name="margin"),
    )


class Slot(Base):
    """One planned replicate."""

    __tablename__ = "slots"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    arm_id: Mapped[str] = mapped_column(ForeignKey("arms.id"))
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"), index=True)
    number: Mapped[int]
    __table_args__ = (UniqueConstraint("arm_id", "test_id", "number"),)


class Rig(Base):
    __tablename__ = "rigs"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    code: Mapped[str] = mapped_column(String(6), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    method: Mapped[str] = mapped_column(String(40))


class RigVersion(Base):
    """A rig's geometry and what its displays show, from one day on."""

    __tablename__ = "rig_versions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_id: Mapped[str] = mapped_column(ForeignKey("rigs.id"), index=True)
    number: Mapped[int]
    valid_from: Mapped[datetime]
    compliance: Mapped[float] = mapped_column(default=0.0)
    force_unit: Mapped[str] = mapped_column(String(12))
    force_step: Mapped[float]
    length_unit: Mapped[str] = mapped_column(String(12))
    length_step: Mapped[float]
    capacity: Mapped[float | None]
    rig: Mapped[Rig] = relationship()
    __table_args__ = (
        UniqueConstraint("rig_id", "number"),
        CheckConstraint("compliance >= 0", name="compliance"),
        CheckConstraint("force_step > 0 AND length_step > 0", name="steps"),
    )


class Calibration(Base):
    """A factor on a quantity, valid from one instant to another."""

    __tablename__ = "calibrations"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"), index=True)
    quantity: Mapped[str] = mapped_column(String(40))
    factor: Mapped[float]
    valid_from: Mapped[datetime]
    valid_to: Mapped[datetime | None]
    __table_args__ = (CheckConstraint("factor > 0", name="factor"),)


class RigFileTemplate(Base):
    """Answers about a rig's files, found by the signature of their header."""

    __tablename__ = "file_templates"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"))
    signature: Mapped[str] = mapped_column(Text)
    columns: Mapped[list[Any]]
    __table_args__ = (UniqueConstraint("rig_version_id", "signature"),)


class Batch(Base):
    """One print job of one variant."""

    __tablename__ = "batches"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    variant_id: Mapped[str] = mapped_column(ForeignKey("variants.id"), index=True)
    printed_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    spool_id: Mapped[str | None] = mapped_column(ForeignKey("spools.id"), index=True)


class Specimen(Base):
    """A printed piece: batch × position. It has a shape, not a method; it may fill a slot."""

    __tablename__ = "specimens"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    code: Mapped[str] = mapped_column(String(6), unique=True)
    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"))
    position: Mapped[int]
    shape: Mapped[str] = mapped_column(String(40))
    orientation: Mapped[str] = mapped_column(String(20))
    slot_id: Mapped[str | None] = mapped_column(ForeignKey("slots.id"), unique=True)
    batch: Mapped[Batch] = relationship()
    __table_args__ = (UniqueConstraint("batch_id", "position"),)


class Curve(Base):
    """A recorded curve as read, in base units; the file itself lies content-addressed beside the database."""

    __tablename__ = "curves"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64))
    file_name: Mapped[str] = mapped_column(String(200))
    rows: Mapped[int]
    columns: Mapped[list[Any]]
    warnings: Mapped[list[Any]]
    data: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    created_at: Mapped[datetime]


VALIDITIES = ("counts", "at_least", "at_most", "left_out")


class Run(Base):
    """One specimen tested by one procedure on one rig."""

    __tablename__ = "runs"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    specimen_id: Mapped[str] = mapped_column(ForeignKey("specimens.id"), index=True)
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"), index=True)
    procedure_version: Mapped[str] = mapped_column(String(40))
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"))
    operator: Mapped[str] = mapped_column(String(80))
    happened_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    validity: Mapped[str] = mapped_column(String(10))
    validity_reason: Mapped[str | None] = mapped_column(String(200))
    validity_by: Mapped[str | None] = mapped_column(String(80))
    validity_at: Mapped[datetime | None]
    fracture: Mapped[str | None] = mapped_column(String(20))
    fracture_place: Mapped[float | None]
    options: Mapped[dict[str, Any]] = mapped_column(default=dict)
    curve_id: Mapped[str | None] = mapped_column(ForeignKey("curves.id"), unique=True)
    complete: Mapped[bool]
    """False while only the dimensions round has been done."""
    remarks: Mapped[list[Any]] = mapped_column(default=list)
    retracted_at: Mapped[datetime | None]
    revision: Mapped[int] = mapped_column(default=1)
    specimen: Mapped[Specimen] = relationship()
    rig_version: Mapped[RigVersion] = relationship()
    readings: Mapped[list[Reading]] = relationship(order_by="Reading.seq", back_populates="run")
    __table_args__ = (
        CheckConstraint("validity IN ('counts', 'at_least', 'at_most', 'left_out')", name="validity"),
        CheckConstraint("validity != 'left_out' OR validity_reason IS NOT NULL", name="reason"),
        CheckConstraint("fracture_place IS NULL OR (fracture_place BETWEEN 0 AND 1)", name="fracture_place"),
        # the guard against two people pulling one specimen
        Index("uq_runs_standing", "specimen_id", "procedure_version", unique=True, sqlite_where=text("retracted_at IS NULL")),
    )


class Reading(Base):
    """One append-only row: a correction is a new row that supersedes."""

    __tablename__ = "readings"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(ID, unique=True)
    run_id: Mapped[str] = mapped_column(ForeignKey("runs.id"), index=True)
    step: Mapped[str] = mapped_column(String(40))
    field: Mapped[str] = mapped_column(String(40))
    position: Mapped[int]
    happened_at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    raw: Mapped[str] = mapped_column(String(80))
    value: Mapped[float]
    unit: Mapped[str] = mapped_column(String(12))
    ambient_c: Mapped[float | None]
    entered_by: Mapped[str] = mapped_column(String(80))
    supersedes_id: Mapped[str | None] = mapped_column(ForeignKey("readings.id"), unique=True)
    reason: Mapped[str | None] = mapped_column(String(200))
    run: Mapped[Run] = relationship(back_populates="readings")
    __table_args__ = (CheckConstraint("supersedes_id IS NULL OR reason IS NOT NULL", name="correction"),)


class Result(Base):
    """A derived value; its subject is a specimen or an arm. A cache: `assayer recompute` makes it anew."""

    __tablename__ = "results"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    subject_kind: Mapped[str] = mapped_column(String(10))
    subject_id: Mapped[str] = mapped_column(ID)
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"))
    run_id: Mapped[str | None] = mapped_column(ForeignKey("runs.id"), index=True)
    quantity: Mapped[str] = mapped_column(String(40))
    value: Mapped[float]
    unit: Mapped[str] = mapped_column(String(12))
    bound: Mapped[str] = mapped_column(String(10))
    warnings: Mapped[list[Any]]
    reduction_version: Mapped[int]
    log_se: Mapped[float | None]
    df: Mapped[float | None]
    __table_args__ = (
        CheckConstraint("subject_kind IN ('specimen', 'arm')", name="subject_kind"),
        CheckConstraint("bound IN ('exact', 'at_least', 'at_most')", name="bound"),
        Index("ix_results_test", "test_id", "quantity"),
        Index("ix_results_subject", "subject_kind", "subject_id"),
    )


class ColumnSummary(Base):
    """What the board shows of one test, ready to send; written in the transaction that changes it."""

    __tablename__ = "column_summaries"
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"), primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"), index=True)
    revision: Mapped[int]
    payload: Mapped[str] = mapped_column(Text)


class Change(Base):
    """Append-only: who, when, what, before, after."""

    __tablename__ = "changes"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    entity: Mapped[str] = mapped_column(String(40))
    entity_id: Mapped[str] = mapped_column(ID)
    action: Mapped[str] = mapped_column(String(40))
    before: Mapped[dict[str, Any] | None]
    after: Mapped[dict[str, Any] | None]
    __table_args__ = (Index("ix_changes_entity", "entity", "entity_id"),)


class Use(Base):
    """A use that materials are ranked for."""

    __tablename__ = "uses"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"), index=True)
    title: Mapped[str] = mapped_column(String(160))
    seed: Mapped[int]
    revision: Mapped[int] = mapped_column(default=1)
    criteria: Mapped[list[UseCriterion]] = relationship(order_by="UseCriterion.position", cascade="all, delete-orphan")


class UseCriterion(Base):
    __tablename__ = "use_criteria"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    use_id: Mapped[str] = mapped_column(ForeignKey("uses.id"), index=True)
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"))
    quantity: Mapped[str] = mapped_column(String(40))
    no_use: Mapped[float]
    all_needed: Mapped[float]
    required: Mapped[float | None]
    weight: Mapped[float]
    position: Mapped[int]
    __table_args__ = (
        UniqueConstraint("use_id", "test_id", "quantity"),
        CheckConstraint("weight >= 0", name="weight"),
        CheckConstraint("no_use != all_needed", name="scale"),
    )


class Lease(Base):
    """A queue item is held by one station at a time, until it is accepted or the time runs out."""

    __tablename__ = "leases"
    specimen_id: Mapped[str] = mapped_column(ForeignKey("specimens.id"), primary_key=True)
    station: Mapped[str] = mapped_column(String(40))
    until: Mapped[datetime]
