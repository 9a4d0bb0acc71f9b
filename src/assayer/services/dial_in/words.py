"""The words in which it is told what came of a trial."""

from typing import Literal

Outcome = Literal["planned", "good", "poor", "failed", "stopped"]
Decision = Literal["", "keep", "drop", "try next"]
Distance = Literal["near", "far"]
