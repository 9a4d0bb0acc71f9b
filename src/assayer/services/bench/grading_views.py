"""What grading answers."""

from __future__ import annotations

from assayer.services.bench.views import QueueArm
from assayer.services.photos.views import PhotoView
from assayer.services.views import View


class GradedTrait(View):
    """One trait with what each grade from 0 to 4 looks like; `better` tells whether more is better, else neither end is.

    `place_field` is the field that a print's place in an order by it is kept in.
    """

    name: str
    label: str
    steps: list[str]
    better: bool
    caution: str
    """What to take care of while grading it."""
    place_field: str


class GradeView(View):
    """What a person gave a print: a grade of a trait, or its place in the person's order."""

    id: str
    trait: str
    grader: str
    grade: float


class GradedPrint(View):
    """One print that is graded, with all grades so far; nothing that tells its material where that is not to be known."""

    specimen_id: str
    code: str
    run_id: str | None
    complete: bool
    left_out: bool
    arm: QueueArm | None
    grades: list[GradeView]
    places: list[GradeView]
    photos: list[PhotoView]


class GradingView(View):
    """The prints of a graded test laid out in its random order, and its traits in the order they are graded."""

    test_id: str
    study_id: str
    study: str
    orientation: str
    ordered: bool
    """Whether the prints are put in order against each other, instead of graded by steps."""
    viewing: str
    """The viewing distance and the light, as planned; empty where nobody said."""
    traits: list[GradedTrait]
    prints: list[GradedPrint]
    rigs: list[str]
    """Version ids of where it is looked at: a light, a table."""
