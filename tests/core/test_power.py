"""Power by the rule of the verdicts: the table of METHODS 13, simulations of the whole rule, and what must hold."""

import numpy as np
import pytest

from assayer.core.errors import EntryError
from assayer.core.stats.batches import summarise_batched
from assayer.core.stats.groups import summarise
from assayer.core.stats.power import Design, detectable, needed, power
from assayer.core.stats.verdicts import decide


@pytest.mark.parametrize("n, sds", [(2, 10.4), (3, 3.52), (4, 2.51), (5, 2.08), (6, 1.83), (7, 1.65), (8, 1.52), (10, 1.33), (15, 1.06), (20, 0.91)])
def test_the_table_of_detectable_differences(n, sds):
    """METHODS 13: seeded simulations there, within 0.5 % and their rounding."""
    assert detectable(1.0, Design(n)) == pytest.approx(sds, rel=0.005, abs=0.005)
    assert detectable(0.06, Design(n)) == pytest.approx(0.06 * detectable(1.0, Design(n)))


def test_worked_examples():
    assert needed(0.06, 0.10) == 7
    assert needed(0.06, 0.15) == 4
    assert detectable(0.06, Design(3)) == pytest.approx(0.211, abs=0.0008)


def decided(difference, design, draws=1500):
    """How often the verdict's interval excludes 0, of simulated tests put through the rule itself."""
    rng = np.random.default_rng(7)
    arms = [f"a{i}" for i in range(design.comparisons + 1)]
    batch = [str(i % design.batches) for i in range(design.n)]
    clear = 0
    for _ in range(draws):
        values = {}
        for arm in arms:
            shifts = rng.normal(0, design.batch_ratio, design.batches) if design.batches > 1 else np.zeros(1)
            values[arm] = [rng.normal(100 + (difference if arm == "a1" else 0) + shifts[int(b)]) for b in batch]
        groups = summarise_batched(values, dict.fromkeys(arms, batch)).groups if design.batches > 1 else {a: summarise(v) for a, v in values.items()}
        verdicts = decide(groups["a0"], {a: g for a, g in groups.items() if a != "a0"})
        clear += verdicts[0].ci95.clear_of_zero
    return clear / draws


@pytest.mark.parametrize(
    "difference, design",
    [(3.5, Design(3, comparisons=4)), (2.0, Design(5)), (3.0, Design(8, 2, 0.5, 3)), (3.0, Design(7, 3, 1.0, 1)), (5.0, Design(6, 2, 1.0, 1))],
)
def test_planned_power_is_that_of_simulated_tests(difference, design):
    # three standard errors of 1,500 draws
    assert power(difference, 1.0, design) == pytest.approx(decided(difference, design), abs=0.04)


def test_more_specimens_batches_of_their_own_and_fewer_comparisons_detect_less():
    found = [detectable(0.08, Design(n)) for n in range(2, 21)]
    assert found == sorted(found, reverse=True)
    assert detectable(1.0, Design(8, comparisons=4)) > detectable(1.0, Design(8))
    assert detectable(1.0, Design(8), target_power=0.9) > detectable(1.0, Design(8))
    assert detectable(1.0, Design(8, 2, 1.0)) > detectable(1.0, Design(8, 4, 1.0)) > detectable(1.0, Design(8, 8, 1.0))
    assert detectable(1.0, Design(8, 8, 1.0)) == pytest.approx(2**0.5 * detectable(1.0, Design(8)))
    for n in (4, 7, 20):
        assert needed(0.08, detectable(0.08, Design(n))) == n
    assert needed(0.06, 0.10, batches=4, batch_ratio=0.5) > 7


def test_edges():
    assert needed(0.5, 0.05) is None, "more than fifty"
    assert needed(0.001, 0.5) == 2
    assert needed(0.001, 0.5, batches=3) == 3
    assert power(-3.0, 1.0, Design(4)) == power(3.0, 1.0, Design(4))
    for call in (lambda: power(1, 0, Design(5)), lambda: needed(0.1, 0), lambda: needed(0, 0.1)):
        with pytest.raises(EntryError, match="above 0"):
            call()
    for wrong in ({"n": 1}, {"n": 3, "batches": 4}, {"n": 3, "batches": 0}):
        with pytest.raises(EntryError, match="no more batches than specimens"):
            Design(**wrong)
    with pytest.raises(EntryError, match="0 or more"):
        Design(3, batch_ratio=-1)
