"""What G-code files answer."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.services.dial_in.views import SeriesView, WarningView
from assayer.services.views import View


class SpreadView(View):
    """Values over time: passed in 5 %, mean, reached in all but 5 %, standard deviation."""

    low: float
    mean: float
    high: float
    scatter: float


class LayerColumns(View):
    """All layers, a list for each figure; mm, s, mm/s, mm³/s, °C, share."""

    z: list[float]
    seconds: list[float]
    filament: list[float]
    fan: list[float]
    nozzle: list[float | None]
    bed: list[float | None]
    chamber: list[float | None]
    speed_low: list[float | None]
    speed_mean: list[float | None]
    speed_high: list[float | None]
    flow_low: list[float | None]
    flow_mean: list[float | None]
    flow_high: list[float | None]
    contour_low: list[float | None]
    contour_mean: list[float | None]
    contour_high: list[float | None]
    travel: list[float]
    crossing: list[float]


class RemarkView(View):
    line: int
    text: str


class CapView(View):
    """A limit that would even the outer wall, and what it costs, s."""

    about: str
    value: float
    unit: str
    costs: float
    text: str


class TemperaturesView(View):
    """Temperatures that layers were laid at, °C, in order of first use."""

    nozzle: list[float]
    bed: list[float]
    chamber: list[float]


class InspectionView(View):
    """What a file does. `time_s` of all; before the first bead, of the first layer and after it apart."""

    layers: int
    height_mm: float
    lines: int
    size: int
    time_s: float
    preparing_s: float
    first_layer_s: float
    rest_s: float
    filament_mm: float
    filament_by_tool: dict[str, float]
    volume_mm3: float
    speed: SpreadView | None
    flow: SpreadView | None
    outer_contour: SpreadView | None
    jumping_share: float
    travel_mm: float
    crossing_mm: float
    temperatures: TemperaturesView
    wall_scatter: float | None
    caps: list[CapView]
    remarks: list[RemarkView]
    remark_count: int
    unknown: dict[str, int]
    sets: dict[str, int] = {}
    """How often the file sets what a tower can step, by setting; empty for files inspected before that was counted."""
    by_layer: LayerColumns


class FileFinding(View):
    about: str
    text: str
    layers: list[tuple[int, int]]


class GcodeView(View):
    """A kept file with its inspection, and how it stands to the sheet of its trial."""

    id: str
    name: str
    size: int
    added_at: datetime
    who: str
    trail_id: str | None
    trial_id: str | None
    trial_number: int | None
    series: SeriesView | None
    """The tower that it was made for."""
    density: float | None
    """g/cm³ of what it is printed of, where that is known."""
    found: InspectionView
    findings: list[FileFinding]


class GcodeItem(View):
    id: str
    name: str
    size: int
    added_at: datetime
    trail_id: str | None
    layers: int
    time_s: float


class GcodeList(View):
    items: list[GcodeItem]


class GcodeJob(View):
    """An inspection under way: `share` of the bytes read; done once the file is kept."""

    id: str
    name: str
    state: Literal["running", "done", "failed", "cancelled"]
    share: float
    words: str
    line: int | None = None


class InsertionView(View):
    line: int
    text: str
    band: int
    z: float
    why: str


class BandAtView(View):
    number: int
    value: float
    first_layer: int
    layers: int
    low: float
    high: float


class StepPlan(View):
    """What would be put into a file, and the bands that come of it."""

    series: SeriesView
    insertions: list[InsertionView]
    bands: list[BandAtView]
    cautions: list[WarningView]


class HeightDifference(View):
    z: float
    seconds: tuple[float | None, float | None]
    speed: tuple[float | None, float | None]


class FileComparison(View):
    a: GcodeItem
    b: GcodeItem
    mass_share: float | None
    """Filament of b over that of a."""
    rows: list[HeightDifference]
