"""A stress–strain curve with its strain zeroed, whatever the strain was read from (METHODS 1)."""

from __future__ import annotations

from dataclasses import dataclass

from assayer.core.curves.loading import StrainZero, find_strain_zero
from assayer.core.curves.maximum import strain_at_maximum
from assayer.core.curves.recording import Floats
from assayer.core.curves.stiffness import Modulus, Yield, find_modulus, find_yield


@dataclass(frozen=True, slots=True)
class Course:
    """One curve of stress (MPa) on strain, one value a row, from where load comes on to the row of the break.

    Attributes
    ----------
    strain : ndarray, shape (n,)
        Zeroed by the toe line.
    strain_at_strength, strain_at_break : float
    energy : float, MJ/m³
        ∫σ dε from strain 0 to the break.
    """

    strain: Floats
    zero: StrainZero
    modulus: Modulus
    yield_point: Yield | None
    strain_at_strength: float
    strain_at_break: float
    energy: float


def course_of(stress: Floats, strain: Floats, peak_row: int, break_row: int, noise: float, chosen: tuple[float, float] | None = None) -> Course:
    """Zero a strain and read modulus, yield, strains and energy off the curve.

    Parameters
    ----------
    stress, strain : ndarray, shape (n,)
        MPa; mm/mm before zeroing, compliance taken off.
    peak_row, break_row : int
    noise : float, MPa
        Standard deviation of the unloaded stress.
    chosen : (low, high), optional
        Strains between which the user wants the modulus.
    """
    zero = find_strain_zero(stress, strain, peak_row, noise)
    strain = strain - zero.offset
    loaded = slice(zero.load_on, break_row + 1)
    modulus = find_modulus(stress, strain, zero.load_on, break_row, zero.toe, chosen)
    return Course(
        strain,
        zero,
        modulus,
        find_yield(stress, strain, zero.load_on, break_row, modulus.value, noise),
        strain_at_maximum(stress[loaded], strain[loaded], noise),
        float(strain[break_row]),
        _energy(stress[loaded], strain[loaded]),
    )


def _energy(stress: Floats, strain: Floats) -> float:
    """∫σ dε from strain 0 on, by trapezoids; MPa·(mm/mm) = MJ/m³."""
    beyond = strain > 0
    start = int(beyond.argmax())
    if not beyond[start]:
        return 0.0
    first = 0.5 * float(strain[start]) * float(stress[start])
    return first + float((strain[start + 1 :] - strain[start:-1]) @ (stress[start:-1] + stress[start + 1 :])) / 2
