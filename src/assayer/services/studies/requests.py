"""What the use cases of studies are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, StringConstraints

from assayer.core.methods.vocabulary import Orientation
from assayer.core.plan.study_plan import StudiedFactor
from assayer.services.requests import Flag, Id, Instant, Name, Real, Request, Whole, printable

SettingValue = (
    Annotated[Real, Field(gt=0, le=1e9)]
    | Annotated[str, StringConstraints(min_length=1, max_length=20, pattern=r"^[A-Za-z ]+$")]
    | Annotated[list[Annotated[Real, Field(gt=0, le=1e9)]], Field(max_length=40)]
    | Annotated[list[Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z_]+$")]], Field(max_length=40)]
)


ShapeName = Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$")]


ArmSetting = Annotated[str, StringConstraints(min_length=1, max_length=80)] | Flag | Real


class NewArm(Request):
    id: Id
    material_id: Id
    spool_id: Annotated[Id | None, Field(description="which spool the specimens are to be printed from; printing debits it")] = None
    printer_id: Annotated[Id | None, Field(description="where printers are studied: the one it is printed on")] = None
    rig_id: Annotated[Id | None, Field(description="where rigs are studied: the one it is tested on")] = None
    treatment: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120), AfterValidator(printable)] = ""
    sheet_id: Annotated[Id | None, Field(description="the settings sheet it is printed by; default: that of the study")] = None
    settings: Annotated[dict[Name, ArmSetting], Field(max_length=40, description="settings in which it differs from its sheet")] = {}


class NewTest(Request):
    id: Id
    method: Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$")] = "tension"
    orientation: Orientation
    shape: Annotated[str | None, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$"), Field(description="default: the method's first")] = (
        None
    )
    protocol: Annotated[dict[Name, SettingValue], Field(max_length=20, description="what the lab sets, in base units; left out: as delivered")] = {}
    replicates: Annotated[Whole | None, Field(ge=1, le=50, description="default: what the method's standard asks for")] = None
    spares: Annotated[Whole, Field(ge=0, le=50, description="of each arm, printed beside them in case one is lost")] = 0
    margin: Annotated[Real | None, Field(gt=0, le=1e6, description="smallest difference that matters; default: the quantity's own")] = None
    margin_relative: Annotated[Flag, Field(description="whether the margin is a share of the reference mean")] = True


class NewStudy(Request):
    id: Id
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160), AfterValidator(printable)]
    question: Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000)] = ""
    studied_factor: StudiedFactor = StudiedFactor.MATERIAL
    studied_settings: Annotated[list[Name], Field(max_length=8, description="of a setting: which; several that move together are one factor")] = []
    crosses_materials: Annotated[Flag, Field(description="of treatments, settings, printers and rigs: each with several materials")] = False
    each_at_best: Annotated[
        Flag, Field(description="of materials: each printed as suits it, so that its temperatures, fan, flow and retraction may differ")
    ] = False
    arms: Annotated[list[NewArm], Field(min_length=1, max_length=60)]
    tests: Annotated[list[NewTest], Field(min_length=1, max_length=20)]
    settings: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120), AfterValidator(printable)] = "as printed"


Reason = Annotated[
    str, StringConstraints(strip_whitespace=True, max_length=300), AfterValidator(printable), Field(description="why; asked for once the study was started")
]


class MarginEdit(Request):
    """The smallest difference of a test's main quantity that matters."""

    value: Annotated[Real, Field(gt=0, le=1e6, description="a share of the reference mean, or in the unit of the quantity")]
    relative: Flag


class StudyEdit(Request):
    """What may be changed on a study itself; only what is given changes."""

    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160), AfterValidator(printable)] | None = None
    question: Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000), AfterValidator(printable)] | None = None
    each_at_best: Flag | None = None
    start: Annotated[Literal[True] | None, Field(description="freeze the plan: from now on it is amended, with a reason")] = None
    reason: Reason = ""
    wanted_by: Annotated[Instant | None, Field(description="when its answer is needed; null: no longer")] = None
    bounds_in: Annotated[Flag | None, Field(description="means include lower bounds, by a Weibull fit with right-censoring")] = None
    batches: Annotated[Whole | None, Field(ge=1, le=6, description="print batches that each arm is planned in")] = None
    targets: Annotated[
        dict[Id, Annotated[Real, Field(gt=0, le=10)] | None],
        Field(max_length=40, description="by test, the difference to be detected as a share of the reference mean; null: the margin"),
    ] = {}
    margins: Annotated[dict[Id, MarginEdit], Field(max_length=40, description="by test, the smallest difference that matters")] = {}
    put_away: Annotated[Flag | None, Field(description="out of the lists of what is to be done; what it has stays")] = None


class StudyExtension(Request):
    """What is planned besides: materials, tests, more specimens of each."""

    arms: Annotated[list[NewArm], Field(max_length=60)] = []
    tests: Annotated[list[NewTest], Field(max_length=20)] = []
    replicates: Annotated[
        dict[Id, Annotated[Whole, Field(ge=1, le=50)]], Field(max_length=40, description="specimens of each material by test, from now on; never fewer")
    ] = {}
    spares: Annotated[dict[Id, Annotated[Whole, Field(ge=0, le=50)]], Field(max_length=40, description="spares of each material by test, from now on")] = {}
    settings: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120), AfterValidator(printable)] = "as printed"
    reason: Reason = ""


class StudyCopy(Request):
    """The plan of a study once more, with the materials and tests that are wanted of it."""

    id: Id
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160), AfterValidator(printable)]
    arm_ids: Annotated[list[Id], Field(min_length=1, max_length=60)]
    test_ids: Annotated[list[Id], Field(min_length=1, max_length=20)]


class ReferenceEdit(Request):
    reference_arm_id: Id


class FactorIn(Request):
    name: Name
    levels: Annotated[list[Real], Field(min_length=2, max_length=20)]


class DesignQuestion(Request):
    """Settings that are to be studied together, and how."""

    kind: Literal["all combinations", "fraction", "central composite", "Latin hypercube"] = "all combinations"
    factors: Annotated[list[FactorIn], Field(min_length=1, max_length=8)]
    halvings: Annotated[Whole, Field(ge=1, le=4, description="of a fraction: how often the number of runs is halved")] = 1
    runs: Annotated[Whole, Field(ge=2, le=60, description="of a Latin hypercube")] = 8
    seed: Annotated[Whole, Field(ge=0, le=2**31)] = 1
