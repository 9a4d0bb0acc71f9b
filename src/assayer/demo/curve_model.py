"""Seeded stress–strain curves with believable scatter, written the way a rig's program writes them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from assayer.core.curves.recording import Floats


@dataclass(frozen=True, slots=True)
class Behaviour:
    """How a material behaves in one orientation: MPa and strain; `draw` is the strain gained after yield."""

    modulus: float
    strength: float
    bend: float
    draw: float = 0.0
    scatter: float = 0.045


def pull(
    behaviour: Behaviour, strength_factor: float, area: float, effective_length: float, compliance: float, rng: np.random.Generator
) -> tuple[Floats, Floats, Floats]:
    """Time (s), crosshead travel (mm) and force (N) of one pull at 0.04 mm/s, sampled at 20 Hz.

    σ = Eε(1 + (ε/ε0)^m)^(−1/m) up to the strength, then a drop or a drawing plateau; slack before, an
    unloaded tail after, and noise of the load cell.
    """
    strength = behaviour.strength * strength_factor
    modulus = behaviour.modulus * (1 + 0.025 * rng.standard_normal())
    knee = strength * 1.12 / modulus
    rising = np.linspace(0, knee * 6, 4000)
    stress = modulus * rising * (1 + (rising / knee) ** behaviour.bend) ** (-1 / behaviour.bend)
    top = int(np.argmax(stress >= strength)) or rising.size - 1
    strain, stress = rising[: top + 1], stress[: top + 1]
    if behaviour.draw > 0:
        length = behaviour.draw * (1 + 0.2 * rng.standard_normal())
        drawn = np.linspace(0, max(0.01, length), 1500)[1:]
        plateau = strength * (0.82 + 0.18 * np.exp(-drawn / 0.012))
        strain, stress = np.append(strain, strain[-1] + drawn), np.append(stress, plateau)
    force = stress * area
    travel = strain * effective_length + compliance * force

    slack = rng.uniform(0.02, 0.10)
    step = 0.04 / 20
    grid = np.arange(0, slack + travel[-1] + 40 * step, step)
    measured = np.interp(grid - slack, travel, force, left=0.0, right=0.0)
    measured[grid - slack > travel[-1]] = 0.0
    measured += 0.25 * rng.standard_normal(grid.size) + rng.uniform(-0.5, 0.5)
    return np.arange(grid.size) / 20, grid, measured


def as_file(time: NDArray[np.float64], travel: NDArray[np.float64], force: NDArray[np.float64]) -> bytes:
    """The recording as the demo rig's program writes it."""
    rows = "\n".join(f"{t:.2f};{x:.4f};{f:.2f}" for t, x, f in zip(time.tolist(), travel.tolist(), force.tolist(), strict=True))
    return f"Pull frame log\nspeed;2.4;mm/min\n\nTime;Travel;Force\ns;mm;N\n{rows}\n".encode()
