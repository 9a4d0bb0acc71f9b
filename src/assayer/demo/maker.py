"""What the parts of the demo share: a clock turned by hand, seeded chance, the people, the arms and how they behave."""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from datetime import datetime

import numpy as np

from assayer.core.ids import uuid7
from assayer.demo.curve_model import Behaviour
from assayer.services.unit import Actor, Workspace

ACTORS = (Actor("Ilse", "Europe/Berlin"), Actor("Tomas", "Europe/Berlin"))


@dataclass(frozen=True, slots=True)
class ArmPlan:
    """One material of the study and its make-up: pulled flat and upright, bent, hung.

    `bend` is its modulus in MPa, the load in N it carries steadily and its drift in % at light loads;
    `creep` its opening on loading in mm, Findley's A in mm (t in days) and n.
    """

    material: tuple[str, str, str]
    spool: str
    flat: Behaviour
    upright: Behaviour
    bend: tuple[float, float, float]
    creep: tuple[float, float, float]


# the reference first; short fibre raises the modulus much, strength little, layer adhesion not at all
ARMS: tuple[ArmPlan, ...] = (
    ArmPlan(("Tarn", "Clearwater", "smoke"), "clearwater", Behaviour(1950, 46.5, 2.6, 0.05), Behaviour(1850, 22.6, 3.5), (1850, 80, 3.0), (0.62, 0.20, 0.30)),
    ArmPlan(("Hollin", "Everyday", "amber"), "everyday", Behaviour(3150, 55.8, 4.0), Behaviour(2950, 30.2, 5.0), (3000, 80, 2.2), (0.40, 0.33, 0.36)),
    ArmPlan(("Tarn", "Clearwater CF", "black"), "carbon", Behaviour(4100, 52.0, 3.2), Behaviour(2100, 15.6, 5.0), (3900, 120, 1.8), (0.31, 0.09, 0.28)),
    ArmPlan(("Fenwick", "Outdoor", "moss"), "moss", Behaviour(1900, 44.0, 2.8, 0.03), Behaviour(1800, 25.3, 4.0), (1800, 80, 2.8), (0.64, 0.16, 0.29)),
    ArmPlan(("Orrery", "Burden", "natural"), "burden", Behaviour(3600, 69.5, 2.4), Behaviour(2300, 24.5, 4.0), (3300, 120, 2.4), (0.36, 0.14, 0.33)),
)


@dataclass(frozen=True, slots=True)
class Rigs:
    """Version ids of the co-operative's rigs."""

    jack: str
    frame: str
    stand: str
    cellar: str
    loft: str


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
