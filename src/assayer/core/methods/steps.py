"""What is entered at the bench: fields, and the steps they are gathered in."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Sign, StepKind
from assayer.core.quantities.units import DIMENSIONS, Dimension

PLACE = "_place"
"""Ends the name of a field that is a place in an order: "surface_place"."""
CLOCK_EVENTS = ("load_on", "load_off", "exposed")
"""What a timed reading may count from; the event is kept as an entry of its own, with its instant."""


USUAL_SCATTER = 0.08
"""How far readings of one thing may lie apart, as a share, before it is asked whether one of them is right."""


@dataclass(frozen=True, slots=True)
class Field:
    """One field of a method.

    Attributes
    ----------
    name, label : str
    dimension : str
        Name of a dimension; values are in its base unit.
    needed, usual : int
        How many readings are needed, and how many are usual.
    sign : Sign
    channel : str or None
        Which channel of the rig shows it: its unit, implied decimals, step, range and calibration.
    nominal : str or None
        Length of the shape that a reading should be near.
    counts_from : str or None
        The event that a timed reading counts from; None: not timed.
    by_load : bool
        Whether each reading belongs to a load.
    from_rig : str or None
        Entry of the rig's geometry that stands for it where it is not typed.
    from_print : str or None
        What is known of how the specimen was printed that stands for it where it is not typed.
    default : float or None
        Value where nothing is entered.
    by_about : bool
        Whether each reading tells what of the specimen it is of: a feature, a named size, a grader.
    yes_no : bool
        Whether it is 1 or 0, said as yes or no.
    scatter : float
        How far its readings may lie apart, as a share, before it is asked whether one of them is right.
    """

    name: str
    label: str
    dimension: str
    needed: int = 1
    usual: int = 1
    sign: Sign = Sign.ABOVE_ZERO
    channel: str | None = None
    nominal: str | None = None
    counts_from: str | None = None
    by_load: bool = False
    from_rig: str | None = None
    from_print: str | None = None
    default: float | None = None
    by_about: bool = False
    yes_no: bool = False
    scatter: float = USUAL_SCATTER

    @property
    def timed(self) -> bool:
        return self.counts_from is not None

    @property
    def of_dimension(self) -> Dimension:
        return DIMENSIONS[self.dimension]

    def check(self, value: float, shown: str | None = None) -> None:
        """Refuse a value whose sign the field does not allow; names the field."""
        what = shown or f"{value:g} {self.of_dimension.base}"
        if self.sign is Sign.ABOVE_ZERO and not value > 0:
            raise EntryError(f"{self.label} must be greater than 0, but got {what}", self.name)
        if self.sign is Sign.ZERO_ALLOWED and not value >= 0:
            raise EntryError(f"{self.label} must not be negative, but got {what}", self.name)


@dataclass(frozen=True, slots=True)
class Step:
    """A step of a method; its kind tells which part of the front end captures it."""

    name: str
    label: str
    fields: tuple[Field, ...] = ()
    optional: bool = False
    kind: ClassVar[StepKind] = StepKind.PLAIN


@dataclass(frozen=True, slots=True)
class PlainStep(Step):
    """Fields one after another."""


@dataclass(frozen=True, slots=True)
class SectionStep(Step):
    """Dimensions of the section, entered where the calliper goes."""

    kind: ClassVar[StepKind] = StepKind.SECTION


@dataclass(frozen=True, slots=True)
class PeakStep(Step):
    """The greatest load, read off the display."""

    kind: ClassVar[StepKind] = StepKind.PEAK


@dataclass(frozen=True, slots=True)
class RecordingStep(Step):
    """A recorded curve with the channels that the reduction reads; instead of the step before it."""

    channels: tuple[str, ...] = ()
    kind: ClassVar[StepKind] = StepKind.RECORDING


@dataclass(frozen=True, slots=True)
class TimedLoadsStep(Step):
    """A ladder of weights, each read at set times; then all off, and what stays.

    `ladder` and `times` name the entries of the method's protocol that a lab sets; the first field is
    read under load, the last one after unloading.
    """

    ladder: str = "ladder"
    times: str = "times"
    kind: ClassVar[StepKind] = StepKind.TIMED_LOADS


@dataclass(frozen=True, slots=True)
class RoundsStep(Step):
    """The same reading of many specimens, minutes or days apart, each with its due time.

    `due` names the entry of the protocol that holds the due times, in seconds from the event that the
    field counts from. `needs_event` tells that a person says when that event happened.
    """

    due: str = "due"
    begin: str = ""
    """What is done when its event happens, as one says it to a person at the place."""
    begun: str = ""
    """… and that it was done."""
    kind: ClassVar[StepKind] = StepKind.ROUNDS


@dataclass(frozen=True, slots=True)
class Along:
    """What is read beside the reading that is due, at the same visit.

    Attributes
    ----------
    field, label : str
    about : str or None
        What of the specimen it is of; None: whose it is, the person's at the place.
    grades : tuple of str
        What each grade from 0 means, where it is graded; empty where it is measured.
    before : bool
        Whether it is read once, before the clock runs.
    """

    field: str
    label: str
    about: str | None = None
    grades: tuple[str, ...] = ()
    before: bool = False


@dataclass(frozen=True, slots=True)
class RampStep(Step):
    """One rising temperature and what a specimen does in it: pairs of readings, by position, of the two fields.

    `series` is how the open format calls the pairs; a recording of `channels` stands for them.
    """

    series: str = "series"
    channels: tuple[str, ...] = ("temperature", "travel", "time")
    kind: ClassVar[StepKind] = StepKind.RAMP


@dataclass(frozen=True, slots=True)
class SwingStep(Step):
    """A pendulum let go: where it came from and how far it rose, or the energy that it shows."""

    kind: ClassVar[StepKind] = StepKind.SWING


@dataclass(frozen=True, slots=True)
class CornersStep(Step):
    """How far each corner stands up, entered at the corner."""

    kind: ClassVar[StepKind] = StepKind.CORNERS


@dataclass(frozen=True, slots=True)
class FeaturesStep(Step):
    """Features of known size, measured one after another; each reading tells which one it is of.

    `series` is how the open format calls the list of features.
    """

    series: str = "features"
    kind: ClassVar[StepKind] = StepKind.FEATURES


@dataclass(frozen=True, slots=True)
class BeforeAfterStep(Step):
    """Mass and sizes before the specimen goes in."""

    kind: ClassVar[StepKind] = StepKind.BEFORE_AFTER


@dataclass(frozen=True, slots=True)
class WeighingStep(Step):
    """One specimen weighed twice: in air, then hung in a liquid."""

    kind: ClassVar[StepKind] = StepKind.WEIGHING


@dataclass(frozen=True, slots=True)
class TwistStep(Step):
    """A rod twisted to a set angle, and on until it gives."""

    kind: ClassVar[StepKind] = StepKind.TWIST


@dataclass(frozen=True, slots=True)
class UseStep(Step):
    """A part loaded where it is loaded in use."""

    kind: ClassVar[StepKind] = StepKind.USE


@dataclass(frozen=True, slots=True)
class TraitsStep(Step):
    """Traits looked at by several people: each field is of one trait, each reading tells whose it is.

    `series` is how the open format calls the readings, `said` what one of them is.
    """

    series: str = ""
    said: ClassVar[str] = ""

    def trait(self, field_name: str) -> str:
        """The trait that a field is of."""
        return field_name


@dataclass(frozen=True, slots=True)
class GradesStep(TraitsStep):
    """Traits graded by steps."""

    series: str = "grades"
    said: ClassVar[str] = "grade"
    kind: ClassVar[StepKind] = StepKind.GRADES


@dataclass(frozen=True, slots=True)
class OrderStep(TraitsStep):
    """Prints put in order against each other, trait by trait; a reading is the print's place in the order of one person."""

    series: str = "order"
    said: ClassVar[str] = "place"
    kind: ClassVar[StepKind] = StepKind.ORDER

    def trait(self, field_name: str) -> str:
        return field_name.removesuffix(PLACE)
