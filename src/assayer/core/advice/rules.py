"""What may be changed against what is seen: a table, each line with its reason and what it usually costs."""

from __future__ import annotations

from dataclasses import dataclass

from assayer.core.settings.sheet import Value


@dataclass(frozen=True, slots=True)
class Symptom:
    """Something seen on a print: the trait it lowers, if it has one."""

    name: str
    label: str
    trait: str | None


@dataclass(frozen=True, slots=True)
class Rule:
    """One thing to try: by a step, by a factor, to a value, or an action beside the settings.

    `why` it acts; `cost` what it usually costs elsewhere.
    """

    symptom: str
    setting: str
    why: str
    cost: str
    step: float | None = None
    factor: float | None = None
    to: Value | None = None
    action: str = ""

    @property
    def way(self) -> int:
        """Whether it goes up (1) or down (−1); 0 where that says nothing."""
        if self.step is not None:
            return 1 if self.step > 0 else -1
        if self.factor is not None:
            return 1 if self.factor > 1 else -1
        return 0


SYMPTOMS: tuple[Symptom, ...] = (
    Symptom("strings", "strings", "stringing"),
    Symptom("blobs", "blobs and bumps on walls", "surface"),
    Symptom("sagging bridge", "sagging bridge", "bridging"),
    Symptom("rough overhang", "rough overhang", "overhang"),
    Symptom("cracks", "cracks in the wall", "layers"),
    Symptom("weak layers", "weak layers", "layers"),
    Symptom("lifting corners", "lifting corners", "flatness"),
    Symptom("will not stick", "will not stick", "bed_adhesion"),
    Symptom("will not come off", "will not come off", "removal"),
    Symptom("gaps", "gaps between lines", "surface"),
    Symptom("wavy walls", "wavy or uneven walls", "surface"),
    Symptom("blunt detail", "blunt or missing detail", "fine_detail"),
    Symptom("supports hold", "supports will not come off", "support_removal"),
    Symptom("popping", "popping, pores", "noise"),
)

FIRST_OF: dict[str, str] = {
    "stringing": "strings",
    "bridging": "sagging bridge",
    "overhang": "rough overhang",
    "layers": "weak layers",
    "flatness": "lifting corners",
    "bed_adhesion": "will not stick",
    "removal": "will not come off",
    "surface": "wavy walls",
    "fine_detail": "blunt detail",
    "support_removal": "supports hold",
    "noise": "popping",
}
"""The symptom that a low grade of a trait means, unless another is picked."""

RULES: tuple[Rule, ...] = (
    # strings
    Rule("strings", "nozzle_temperature", "A cooler melt is stiffer and breaks off instead of drawing a thread.", "hold between layers", step=-5),
    Rule("strings", "retraction", "More is drawn back, so less hangs at the nozzle while it travels.", "time; the drive may grind the strand", step=0.5),
    Rule("strings", "speed_travel", "A quicker way over the gap leaves the melt less time to run out.", "vibration on thin parts", factor=1.25),
    Rule("strings", "travel_inside", "What runs out falls inside the part, where nobody sees it.", "time, longer ways", to=True),
    Rule("strings", "", "Water boils in the nozzle and pushes melt out.", "a day of drying", action="dry the spool"),
    # blobs
    Rule("blobs", "retraction_speed", "The melt is taken back before it gathers where a wall ends.", "the drive may grind the strand", factor=1.25),
    Rule("blobs", "pressure_advance", "Pressure is let off before the corner, so less runs out there.", "too much leaves gaps after corners", step=0.01),
    Rule("blobs", "seam", "Starts of walls are laid where an edge hides them.", "the edge itself is less sharp", to="in corners"),
    Rule("blobs", "flow", "What is laid too much has nowhere to go but outwards.", "gaps on top", step=-2),
    # bridges
    Rule("sagging bridge", "fan_bridge", "The line is stiff before it can sag.", "hold to the layer below", step=20),
    Rule("sagging bridge", "fan", "The line is stiff before it can sag.", "hold between layers", step=20),
    Rule("sagging bridge", "nozzle_temperature", "A cooler line is stiffer as it leaves the nozzle.", "hold between layers", step=-5),
    Rule("sagging bridge", "speed_inner", "A slower line is drawn less and cools on the way.", "time", factor=0.75),
    Rule("sagging bridge", "supports", "What lies on something cannot sag.", "scars, filament, time", to="where needed"),
    # overhangs
    Rule("rough overhang", "fan_overhang", "The edge stiffens before the next line bends it up.", "hold between layers", step=20),
    Rule("rough overhang", "fan", "The edge stiffens before the next line bends it up.", "hold between layers", step=20),
    Rule("rough overhang", "speed_overhang_steepest", "The line has time to take hold on the little below it.", "time", factor=0.6),
    Rule("rough overhang", "layer_height", "A lower layer reaches out less beyond the one below.", "time, in proportion", factor=0.75),
    Rule(
        "rough overhang",
        "wall_order",
        "The outer line leans on the inner one instead of the air.",
        "outer size is a little less exact",
        to="inner first",
    ),
    Rule("rough overhang", "nozzle_temperature", "A cooler edge curls less.", "hold between layers", step=-5),
    # cracks
    Rule("cracks", "chamber_temperature", "A warm part shrinks as a whole and does not tear.", "heating up; soft fine detail", step=5),
    Rule("cracks", "fan", "Less air keeps the layer below warm enough to weld to.", "bridges and overhangs", step=-20),
    Rule("cracks", "door", "Draught cools one side first, and that side tears.", "bridges and overhangs", to="closed"),
    Rule("cracks", "nozzle_temperature", "A hotter line melts the one below further.", "strings", step=5),
    Rule("cracks", "layer_height", "More of each line is pressed against the one below.", "time, in proportion", factor=0.8),
    # weak layers
    Rule("weak layers", "nozzle_temperature", "A hotter line melts the one below further.", "strings, bridges", step=5),
    Rule("weak layers", "fan", "The line stays melted longer on the one below.", "bridges and overhangs", step=-20),
    Rule("weak layers", "line_width", "A wider line is pressed against more of the one below.", "fine detail", factor=1.12),
    Rule("weak layers", "layer_height", "More of each line is pressed against the one below.", "time, in proportion", factor=0.8),
    Rule("weak layers", "speed_outer", "The line takes its heat with it for longer.", "time", factor=0.75),
    # corners
    Rule("lifting corners", "brim", "A wider foot holds the corner against the pull of the shrinking layers.", "filament, and an edge to trim", step=4),
    Rule("lifting corners", "bed_temperature", "The first layers stay soft and give way instead of pulling.", "a widened foot", step=5),
    Rule("lifting corners", "fan_first", "The first layer does not shrink before it holds.", "nothing much", step=-20),
    Rule("lifting corners", "fan", "The part cools as a whole instead of from outside.", "bridges and overhangs", step=-20),
    Rule("lifting corners", "chamber_temperature", "Less of the shrinkage happens while the part is held.", "heating up", step=5),
    Rule("lifting corners", "door", "Draught makes one corner shrink first.", "bridges and overhangs", to="closed"),
    Rule("lifting corners", "infill", "Less shrinking mass pulls at the corners.", "stiffness and strength", factor=0.6),
    # will not stick
    Rule("will not stick", "layer_height_first", "A first layer pressed flatter wets more of the bed.", "a widened foot", factor=0.8),
    Rule("will not stick", "bed_temperature_first", "A warmer bed keeps the first lines soft until they hold.", "a widened foot", step=5),
    Rule("will not stick", "nozzle_temperature_first", "A hotter first line wets the bed better.", "harder to take off", step=5),
    Rule("will not stick", "speed_first", "A slower line is pressed on for longer.", "time, a little", factor=0.7),
    Rule("will not stick", "cleaned", "Grease from fingers keeps any melt from wetting.", "nothing", to="soap and water"),
    Rule("will not stick", "brim", "More edge holds.", "filament, and an edge to trim", step=4),
    # will not come off
    Rule("will not come off", "bed_temperature_first", "A cooler bed lets the melt bite less.", "corners may lift", step=-5),
    Rule("will not come off", "layer_height_first", "A first layer pressed less bites less.", "hold on the bed", factor=1.15),
    Rule("will not come off", "nozzle_temperature_first", "A cooler first line bites less.", "hold on the bed", step=-5),
    Rule("will not come off", "adhesive", "A thin layer between parts before the bed surface does.", "a film to wash off", to="thin glue film"),
    # gaps
    Rule("gaps", "flow", "More is laid, so neighbours touch.", "fine detail, outer size", step=2),
    Rule("gaps", "nozzle_temperature", "A thinner melt follows the drive and fills the line.", "strings", step=5),
    Rule("gaps", "speed_infill", "The hot end melts what is asked of it.", "time", factor=0.8),
    Rule("gaps", "line_width", "Lines overlap more.", "fine detail", factor=1.1),
    # wavy walls
    Rule("wavy walls", "speed_infill", "With beads of one speed the melt flows evenly, and the wall beside them too.", "time", factor=0.8),
    Rule("wavy walls", "speed_outer", "A slower wall is laid at the same speed in all layers.", "time", factor=0.75),
    Rule("wavy walls", "acceleration", "Softer turns shake the frame less.", "time", factor=0.6),
    Rule("wavy walls", "least_layer_time", "Small layers no longer slow the wall down from one layer to the next.", "soft tips", factor=0.5),
    Rule("wavy walls", "wall_order", "The outer line leans on the inner one.", "outer size is a little less exact", to="inner first"),
    # detail
    Rule("blunt detail", "least_layer_time", "A small layer has time to stiffen before the next.", "time", factor=1.5),
    Rule("blunt detail", "fan", "Small layers stiffen sooner.", "hold between layers", step=20),
    Rule("blunt detail", "nozzle_temperature", "A cooler melt keeps its edge.", "hold between layers", step=-5),
    Rule("blunt detail", "line_width", "A narrower line fits into the detail.", "hold between layers", factor=0.9),
    Rule("blunt detail", "layer_height", "Lower layers draw finer slopes.", "time, in proportion", factor=0.75),
    # supports
    Rule("supports hold", "fan_overhang", "A cooled underside welds less to its support.", "hold between layers", step=20),
    Rule("supports hold", "nozzle_temperature", "A cooler line welds less to the support.", "hold between layers", step=-5),
    # popping
    Rule("popping", "", "Water boils in the nozzle: no setting mends that.", "a day of drying", action="dry the spool"),
    Rule("popping", "nozzle_temperature", "Less of what is left boils.", "hold between layers", step=-5),
)


def symptom(name: str) -> Symptom | None:
    return next((s for s in SYMPTOMS if s.name == name), None)
