"""What the dial-in answers."""

from __future__ import annotations

from datetime import datetime

from assayer.core.advice.next_steps import State
from assayer.core.settings.declared import Group, Kind
from assayer.core.settings.sheet import Source
from assayer.services.dial_in.wetness_views import WetView
from assayer.services.dial_in.words import Decision, Distance, Outcome
from assayer.services.photos.views import PhotoView
from assayer.services.stock.views import MaterialView
from assayer.services.views import View

ValueView = float | bool | str


class SettingView(View):
    """One thing that may be set."""

    name: str
    label: str
    chip: str
    group: Group
    kind: Kind
    unit: str
    low: float
    high: float
    choices: list[str]
    whole: bool


class TraitView(View):
    name: str
    label: str
    short: str
    steps: list[str]
    better: bool
    far: bool
    caution: str


class SymptomView(View):
    name: str
    label: str
    trait: str | None


class DialInDeclarations(View):
    settings: list[SettingView]
    traits: list[TraitView]
    symptoms: list[SymptomView]
    stepped: list[SettingView]


class ScheduleView(View):
    step: float
    every: int
    end: float


class RegionView(View):
    where: str
    value: ValueView


class SetView(View):
    value: ValueView
    source: Source
    schedule: ScheduleView | None = None
    regions: list[RegionView] = []


class ExtraView(View):
    label: str
    value: float | str
    unit: str


class DifferenceView(View):
    name: str
    label: str
    unit: str
    before: SetView | None
    after: SetView | None
    step: float | None


class WarningView(View):
    name: str
    text: str
    source: str


class StandView(View):
    """How a setting stands to the maker's range: `within` 0 at its low end, 1 at its high end."""

    low: float | None
    high: float | None
    within: float | None


class SheetView(View):
    id: str
    name: str
    parent_id: str | None
    created_at: datetime
    values: dict[str, SetView]
    extras: list[ExtraView]
    prepared_with: str


class SheetLook(View):
    """What a sheet would be warned of, and how it stands to the maker's window."""

    warnings: list[WarningView]
    stands: dict[str, StandView]


class SheetPage(View):
    sheet: SheetView
    material: MaterialView | None
    printer_name: str | None
    trail_id: str | None
    trial_number: int | None
    look: SheetLook


class SheetComparison(View):
    a: SheetView
    b: SheetView
    differences: list[DifferenceView]


class SeriesView(View):
    setting: str
    start: float
    step: float
    count: int
    band_height: float
    base_height: float
    values: list[float]
    label: str
    unit: str


class SeriesLook(View):
    series: SeriesView
    cautions: list[WarningView]


class GradeView(View):
    id: str
    trait: str
    grade: float | None
    grader: str
    distance: Distance
    band: int | None
    angle: float | None


class BandWindow(View):
    """What a tower says for one way of using the material: from band to band, counted from 1."""

    reading: str
    first: int | None
    last: int | None
    words: str


class FilamentView(View):
    material: MaterialView
    spool_id: str | None
    part_mass: float | None
    purge_mass: float | None


class RunningView(View):
    layer: int
    what: str


class TrialView(View):
    """One print of a trail. `grades` by trait: the median of its graders, near and far; `apart` how far graders differ."""

    id: str
    number: int
    parent_id: str | None
    sheet_id: str
    part: str
    changes: list[DifferenceView]
    series: SeriesView | None
    control: MaterialView | None
    spool_id: str | None
    spool_code: str | None
    printed_at: datetime | None
    who: str
    outcome: Outcome
    failed_at: float | None
    failed_band: int | None
    minutes: float | None
    room: float | None
    humidity: float | None
    total_mass: float | None
    brim_mass: float | None
    support_mass: float | None
    waste: float | None
    lift: float | None
    symptoms: list[str]
    tested: str
    removal: str
    bond: str
    filaments: list[FilamentView]
    while_running: list[RunningView]
    note: str
    decision: Decision
    grades: dict[str, float]
    far: dict[str, float]
    apart: dict[str, float]
    by_grader: list[GradeView]
    bands: list[dict[str, float]]
    """Of a tower: the grades of each band from the bed upwards, by trait."""
    windows: list[BandWindow]
    photos: list[PhotoView]
    revision: int


class EffectView(View):
    change: DifferenceView
    seen: int
    by_trait: dict[str, float]
    counts: dict[str, int]
    pairs: list[tuple[int, int]]
    finishes: float
    credited: list[str]
    """Traits for which it rests on more than a single grade and on known spools; for the others it was seen once."""


class UntoldView(View):
    number: int
    changes: list[DifferenceView]
    untold: list[DifferenceView]
    start: int
    missing: DifferenceView


class CurrentView(View):
    id: str
    purpose: str
    printer_id: str
    printer_name: str
    sheet_id: str
    trail_id: str | None
    trial_id: str | None
    trial_number: int | None
    accepted_at: datetime
    who: str


class OldCalibration(View):
    """A calibration, and why it should be done again (empty: it stands)."""

    id: str
    kind: str
    at: datetime
    who: str
    before: float | None
    after: float
    unit: str
    words: str
    stale: list[str]


class PrintabilityView(View):
    """Share of prints that came out good, with Wilson's 95 % interval; prints until the first good one."""

    good: int
    printed: int
    controls: int
    """Prints of another material, which are not counted."""
    share: float
    low: float
    high: float
    first_good: int | None


class TrailView(View):
    id: str
    material: MaterialView
    printer_id: str
    printer_name: str
    nozzle_id: str | None
    nozzle: str
    purpose: str
    part: str
    revision: int
    put_away: bool
    trials: list[TrialView]
    effects: list[EffectView]
    untold: list[UntoldView]
    current: CurrentView | None
    printability: PrintabilityView | None
    calibrations: list[OldCalibration]
    wet: list[WetView]


class TrailItem(View):
    id: str
    material: MaterialView
    printer_name: str
    purpose: str
    trials: int
    good: int
    controls: int
    """Prints of another material, which are counted in neither."""
    last_at: datetime | None
    current_number: int | None
    put_away: bool


class TrailList(View):
    items: list[TrailItem]


class CandidateView(View):
    setting: str
    label: str
    unit: str
    before: ValueView | None
    after: ValueView | None
    action: str
    state: State
    why: str
    cost: str
    tried: str
    against: str


class NextSteps(View):
    """What to try next from a trial, against what is graded lowest or was picked."""

    trial_number: int
    symptom: SymptomView | None
    grade: float | None
    candidates: list[CandidateView]
