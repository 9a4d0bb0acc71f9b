"""What the rigs answer."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.core.methods.vocabulary import Orientation, Sign, StepKind, SubjectKind
from assayer.services.views import OutcomeView, Pair2, QuantityView, RecordEntry, ShapeView, View


class ChannelView(View):
    """What one display shows; step and range in the unit shown."""

    name: str
    dimension: str
    unit: str
    decimals: int
    step: float
    low: float | None
    high: float | None


class CalibrationView(View):
    id: str
    channel: str
    factor: float
    valid_from: datetime
    valid_to: datetime | None
    due_at: datetime | None
    note: str
    revision: int
    retracted_at: datetime | None


class RigView(View):
    """A rig as it stands: its newest version."""

    id: str
    rig_id: str
    code: str
    name: str
    version: int
    methods: list[str]
    reference_material_id: str | None
    """The material that is tested on it in every study."""
    compliance: float | None
    """mm/N; None: not known."""
    compliance_uncertainty: float | None
    geometry: dict[str, float]
    places: int
    note: str
    channels: list[ChannelView]
    valid_from: datetime
    calibrated_at: datetime | None
    due_at: datetime | None
    """When the first of its standing calibrations is to be done again."""


class RigList(View):
    items: list[RigView]


class RigPage(View):
    """One rig with its versions, newest first, calibrations of the newest, and its record."""

    rig: RigView
    versions: list[RigView]
    calibrations: list[CalibrationView]
    runs: int
    record: list[RecordEntry]


class ComplianceView(View):
    """The compliance read off a pull on a rigid bar, the bar's own share subtracted: mm/N, with standard uncertainty and 95 % interval of the slope."""

    compliance: float
    uncertainty: float
    of_bar: float
    ci95: Pair2 | None
    r2: float
    rows: int
    force_range: Pair2
    warnings: list[str]


class FieldView(View):
    """One field of a method; `base` is the unit it is kept in."""

    name: str
    label: str
    dimension: str
    base: str
    needed: int
    usual: int
    sign: Sign
    channel: str | None
    nominal: str | None
    counts_from: str | None
    by_load: bool
    from_rig: str | None
    from_print: str | None
    """What of the print stands for it where it is not typed."""
    by_about: bool
    """Whether each reading tells what it is of."""
    yes_no: bool


class ProtocolSetting(View):
    """What a lab sets for a test, in base units."""

    name: str
    label: str
    dimension: str
    base: str
    kind: Literal["number", "numbers", "yes or no", "words", "choice"]
    default: float | str | list[float] | list[str] | None
    """None: not recorded."""
    choices: dict[str, str]
    """Of words and of a choice: what may be chosen, with what each is called."""


class StepView(View):
    """A step: its kind tells which part of the page captures it; `ladder`, `times` and `due` name entries of the protocol."""

    kind: StepKind
    name: str
    label: str
    optional: bool
    fields: list[FieldView]
    channels: list[str]
    ladder: str | None
    times: str | None
    due: str | None


class MethodQuantity(QuantityView):
    by: str | None
    plausible: Pair2 | None
    margin: float
    margin_relative: bool
    ratio_scale: bool
    """Whether a percentage of it has a meaning."""
    graded: bool


class OwnMark(View):
    """That a method is a lab's own: its version, and whether new plans may use it."""

    id: str
    family: str
    number: int
    offered: bool


class MethodView(View):
    """A method as it is declared: what its card shows, and what its capture follows from."""

    name: str
    own: OwnMark | None
    label: str
    after: str
    measures: str
    formulas: list[str]
    procedure_version: str
    reduction_version: int
    subject: SubjectKind
    orientations: list[Orientation]
    shapes: list[ShapeView]
    own_parts: bool
    """Whether it is done on parts of one's own, beside its shapes."""
    steps: list[StepView]
    outcomes: list[OutcomeView]
    quantities: list[MethodQuantity]
    main: str
    count: int
    """How many specimens of each arm its standard asks for."""
    protocol: dict[str, float | str | list[float] | list[str]]
    """As delivered, in base units; a lab sets its own for each test."""
    settings: list[ProtocolSetting]
    """What a protocol is made of."""
    options: list[str]


class ChannelRole(View):
    """A column that a recording may hold, and the units it may have."""

    name: str
    units: list[str]


class DimensionView(View):
    name: str
    base: str
    units: list[str]


class ShownUnit(View):
    """A base unit as it is shown: base value × factor + offset; differences take the factor alone."""

    base: str
    unit: str
    factor: float
    offset: float


class UnitChoice(View):
    """What is chosen together; the base units stand first."""

    name: str
    label: str
    options: list[list[ShownUnit]]


class Declarations(View):
    """Everything that is declared once in core and used by the pages."""

    methods: list[MethodView]
    left_out_reasons: list[str]
    orientations: list[Orientation]
    roles: list[ChannelRole]
    dimensions: list[DimensionView]
    shown: list[UnitChoice]


class ScatterView(View):
    """How far specimens of one batch scatter here, and batches of one arm, pooled over all studies: the usual scatter of a method.

    `arms` are the groups that were pooled: batches, or arms whose specimens were printed one by one.
    """

    method: str
    orientation: Orientation
    quantity: str
    arms: int
    specimens: int
    cv: float | None
    sd: float | None
    unit: str
    batch_ratio: float | None
    """Scatter between batches over that within them."""
    batch_df: int
    """Degrees of freedom between batches that it rests on."""


class ScatterList(View):
    items: list[ScatterView]


class LabMarginView(View):
    """A difference that matters to this lab, in the quantity's unit or as a share."""

    method: str
    quantity: str
    value: float
    relative: bool
    who: str
    set_at: datetime


class LabMarginList(View):
    items: list[LabMarginView]
