"""What the parts of the demo share: a clock turned by hand, seeded chance, the people."""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from datetime import datetime

import numpy as np

from assayer.core.ids import uuid7
from assayer.services.unit import Actor, Workspace

ACTORS = (Actor("Ilse", "Europe/Berlin"), Actor("Tomas", "Europe/Berlin"))


@dataclass(slots=True)
class Clock:
    """A clock that the demo turns by hand, so that entries lie days apart."""

    now: datetime

    def __call__(self) -> datetime:
        return self.now


@dataclass(slots=True)
class Maker:
    workspace: Workspace
    clock: Clock
    rng: random.Random
    noise: np.random.Generator
    ids: dict[str, str] = field(default_factory=dict)

    def id(self) -> str:
        return str(uuid7(self.clock.now, self.rng))
