"""The design value of a group: a one-sided tolerance limit (METHODS 13).

References
----------
1. ISO 16269-6, Statistical interpretation of data, part 6: tolerance intervals.
"""

from __future__ import annotations

import math

from assayer.core.stats import special
from assayer.core.stats.groups import GroupSummary
from assayer.core.stats.verdicts import GoodSide

FEWEST = 3
"""With fewer specimens the limit is so far off that it says nothing."""


def tolerance_factor(n: int, share: float = 0.90, confidence: float = 0.95) -> float:
    """k such that mean ± k·sd bounds `share` of all parts with `confidence`, on one side [1].

    Parameters
    ----------
    n : int
        Specimens, at least two.
    share, confidence : float
        Between 0 and 1.
    """
    shift = float(special.ndtri(share)) * math.sqrt(n)
    return float(special.nctdtrit(n - 1, shift, confidence)) / math.sqrt(n)


def design_value(group: GroupSummary, good_side: GoodSide) -> float | None:
    """What 90 % of parts reach with 95 % confidence: at least, where higher is better, at most, where lower is.

    None with fewer than three specimens, without scatter, and for a quantity without a good side. Specimens are
    taken as one sample: where prints differ, the value is of these prints.
    """
    if group.n < FEWEST or not group.sd or good_side not in (GoodSide.HIGHER, GoodSide.LOWER):
        return None
    reach = tolerance_factor(group.n) * group.sd
    return group.mean - reach if good_side is GoodSide.HIGHER else group.mean + reach
