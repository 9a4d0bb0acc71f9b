"""Questions about implausible properties of a printer or a nozzle: a bore of 4 mm, a build height of 2.5 mm."""

from __future__ import annotations

from collections.abc import Mapping

from assayer.core.errors import Question
from assayer.core.quantities.slips import question_number

USUAL: Mapping[str, tuple[float, float, str, str]] = {
    "diameter": (0.1, 2.0, "a bore of", "mm"),
    "nozzle": (0.1, 2.0, "a nozzle of", "mm"),
    "strand": (1.5, 3.2, "a strand of", "mm"),
    "holder": (5.0, 150.0, "a spool holder of", "mm"),
    "nozzle_hottest": (180.0, 520.0, "a nozzle that goes to", "°C"),
    "bed_hottest": (40.0, 220.0, "a bed that goes to", "°C"),
    "chamber_hottest": (30.0, 250.0, "a chamber that goes to", "°C"),
    "build_x": (50.0, 2000.0, "a build width of", "mm"),
    "build_y": (50.0, 2000.0, "a build depth of", "mm"),
    "build_z": (50.0, 2000.0, "a build height of", "mm"),
    "acceleration": (100.0, 60000.0, "an acceleration of", "mm/s²"),
}
"""By field: the range that is not asked about, and what it is called with its unit. General knowledge of the trade."""


def questions_hardware(values: Mapping[str, float | None]) -> list[Question]:
    """Ask about each value outside its usual range, with the likely meaning where a slipped decimal mark explains it.

    Parameters
    ----------
    values : mapping of field to float or None
        In the units of `USUAL`; None, and fields that are not among them, are passed over.
    """
    questions = [question_number(name, value, *USUAL[name]) for name, value in values.items() if value is not None and name in USUAL]
    return [q for q in questions if q is not None]
