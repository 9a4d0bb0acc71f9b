"""What the use cases of rigs are told."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints

from assayer.services.requests import Confirmed, Flag, Id, Moment, Name, Real, Request, Whole, Words

ChannelName = Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z][a-z0-9_ ]*$")]
MethodName = Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$")]


class ColumnAnswer(Request):
    role: Annotated[str, StringConstraints(min_length=1, max_length=40)]
    unit: Annotated[str, StringConstraints(max_length=12)] | None = None


class TemplateAnswer(Request):
    signature: Annotated[str, StringConstraints(max_length=4000)]
    columns: Annotated[list[ColumnAnswer], Field(min_length=1, max_length=64)]


class NewChannel(Request):
    """What one display shows; step and range in the unit shown."""

    name: ChannelName
    dimension: Annotated[str, StringConstraints(min_length=1, max_length=40)]
    unit: Annotated[str, StringConstraints(min_length=1, max_length=12)]
    decimals: Annotated[Whole, Field(ge=0, le=6, description="implied: 2 reads a typed 2047 as 20.47")] = 0
    step: Annotated[Real, Field(gt=0, le=1e6)]
    low: Annotated[Real | None, Field(ge=-1e9, le=1e9)] = None
    high: Annotated[Real | None, Field(ge=-1e9, le=1e9)] = None


class RigFacts(Request):
    """A rig's geometry and channels, as they are from one day on."""

    channels: Annotated[list[NewChannel], Field(max_length=20)]
    compliance: Annotated[Real | None, Field(ge=0, le=1, description="mm/N; null: not known")] = None
    compliance_uncertainty: Annotated[Real | None, Field(ge=0, le=1, description="standard uncertainty, mm/N; null: not known")] = None
    geometry: Annotated[
        dict[ChannelName, Annotated[Real, Field(gt=0, le=1e6)]],
        Field(max_length=20, description="facts of the rig by name, each in the base unit of its dimension: span, hammer_mass …"),
    ] = {}
    places: Annotated[Whole, Field(ge=1, le=99)] = 1
    note: Words = ""
    valid_from: Moment | None = None


class NewRig(RigFacts):
    id: Id
    version_id: Id
    name: Name
    methods: Annotated[list[MethodName], Field(min_length=1, max_length=20)] = ["tension"]


class NewRigVersion(RigFacts):
    version_id: Id


class RigEdit(Request):
    """What may be changed on a rig without making another version of it; only what is given changes."""

    name: Name | None = None
    methods: Annotated[list[MethodName], Field(min_length=1, max_length=20)] | None = None
    reference_material_id: Annotated[Id | None, Field(description="the material that is tested on it in every study; null: none")] = None


class NewCalibration(Request):
    id: Id
    channel: ChannelName
    factor: Annotated[Real, Field(ge=0.001, le=1000, description="true value / value shown")]
    valid_from: Moment
    valid_to: Moment | None = None
    due_at: Annotated[Moment | None, Field(description="when it is to be done again")] = None
    note: Words = ""
    confirmed: Confirmed = []


class CalibrationEdit(Request):
    """Only what is given changes; null takes an end or a due date away."""

    factor: Annotated[Real, Field(ge=0.001, le=1000)] | None = None
    valid_from: Moment | None = None
    valid_to: Moment | None = None
    due_at: Moment | None = None
    note: Words | None = None
    retracted: Flag | None = None
    confirmed: Confirmed = []


class ComplianceEdit(Request):
    compliance: Annotated[Real, Field(ge=0, le=1, description="mm/N")]
    uncertainty: Annotated[Real | None, Field(ge=0, le=1, description="standard uncertainty, mm/N; null: not known")] = None


class MarginValue(Request):
    """A smallest difference that matters: in the quantity's unit, or as a share of the reference's mean."""

    value: Annotated[Real, Field(gt=0, le=1e9)]
    relative: Flag


class LabMarginEdit(Request):
    """Another margin of a quantity; null: that of the method."""

    margin: MarginValue | None
