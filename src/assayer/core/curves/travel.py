"""How the travel of a crosshead becomes strain (METHODS 1, "Machine compliance")."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from assayer.core.curves.recording import Floats
from assayer.core.errors import EntryError

COMPLIANCE_UNKNOWN = "the machine's compliance is not known: its own give is in this value"


@dataclass(frozen=True, slots=True)
class TravelScale:
    """The lengths that travel is divided by, and what the machine itself gives.

    Attributes
    ----------
    effective_length : float, mm
        L_eff of the shape, or a length entered by hand.
    grip_distance : float or None, mm
        For nominal strain (ISO 527-1, 10.2.2); None: no nominal strain.
    compliance : float or None, mm/N
        None: not known; the travel is taken as it is.
    compliance_uncertainty : float, mm/N
        Standard uncertainty of the compliance.

    Raises
    ------
    EntryError
        If a length is not greater than 0, or the compliance or its uncertainty is negative.
    """

    effective_length: float
    grip_distance: float | None = None
    compliance: float | None = None
    compliance_uncertainty: float = 0.0

    def __post_init__(self) -> None:
        for name, length in (("gauge_length", self.effective_length), ("grip_distance", self.grip_distance)):
            if length is not None and not (np.isfinite(length) and length > 0):
                raise EntryError(f"the {name.replace('_', ' ')} must be greater than 0 mm, but got {length:g}", name)
        for name, value in (("compliance", self.compliance), ("compliance_uncertainty", self.compliance_uncertainty)):
            if value is not None and not (np.isfinite(value) and value >= 0):
                raise EntryError(f"the {name.replace('_', ' ')} must not be negative, but got {value:g} mm/N", name)

    def strain(self, travel: Floats, force: Floats) -> Floats:
        """(travel − C·F) / L_eff."""
        return (travel - (self.compliance or 0.0) * force) / self.effective_length

    def nominal(self, strain: float) -> float | None:
        """The same travel over the distance of the grips."""
        return None if self.grip_distance is None else strain * self.effective_length / self.grip_distance

    def warnings(self, modulus: float, area: float) -> list[str]:
        """What is to be said of an apparent modulus in MPa; `area` in mm². 1/E = (x/F − C)·A/L_eff."""
        return compliance_warnings(modulus, area / self.effective_length, self.compliance, self.compliance_uncertainty)


def compliance_warnings(modulus: float, geometry: float, compliance: float | None, uncertainty: float) -> list[str]:
    """What the machine's compliance C leaves to be said of a modulus read from travel.

    Parameters
    ----------
    modulus : float, MPa
    geometry : float, mm
        k of 1/E = k·(x/F − C), so that u(E) = E²·k·u(C): A/L in tension, 4bh³/L³ in bending.
    compliance : float or None, mm/N
    uncertainty : float, mm/N
        Standard uncertainty of the compliance.
    """
    if compliance is None:
        return [COMPLIANCE_UNKNOWN]
    moved = modulus**2 * geometry * uncertainty
    return [f"uncertain by {moved:.2g} MPa from the compliance alone"] if moved else []
