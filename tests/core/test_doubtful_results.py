"""Break places against a uniform draw, batches unlike their siblings, groups unlike what should be like them."""

import numpy as np
import pytest
from scipy import stats

from assayer.core.errors import EntryError
from assayer.core.stats.break_places import commonest_place
from assayer.core.stats.groups import summarise
from assayer.core.stats.unlike import differs_beyond_batches, unlike_batch


@pytest.mark.parametrize(
    ("places", "count", "exact"),
    [
        # n uniform points all within a width w: n w^(n−1) − (n−1) w^n
        ([0.42, 0.47], 2, 0.19),
        ([0.42, 0.47, 0.50], 3, 0.028),
        ([0.80, 0.82, 0.85, 0.88], 4, 0.0037),
        # two of three within a tenth, else: 1 − (1 − 2 · 0.1)³
        ([0.10, 0.15, 0.90], 2, 0.488),
    ],
)
def test_the_tenth_with_most_breaks_is_held_against_a_uniform_draw(places, count, exact):
    place = commonest_place(places)
    assert (place.count, place.n) == (count, len(places))
    assert place.p == pytest.approx(exact, abs=4 * np.sqrt(exact * (1 - exact) / 10_000))
    assert place.stands_out == (exact <= 0.05)
    assert place == commonest_place(places[::-1]), "the draw is seeded"


def test_places_lie_in_the_gauge_and_are_at_least_two():
    assert commonest_place([0.5]) is None
    assert commonest_place([0.3, 0.2, 0.3]).low == 0.2
    assert commonest_place([0.2, 0.3]).count == 2, "just a tenth apart"
    with pytest.raises(EntryError, match="within the gauge"):
        commonest_place([0.5, 1.01])


def batches_of(size, *means):
    spread = (-1.0, 0.0, 1.0, 0.5, -0.5)[:size]
    return [m + d for m in means for d in spread], [str(i) for i in range(len(means)) for _ in range(size)]


def test_a_batch_is_unlike_its_siblings_beyond_what_batches_scatter():
    values, batches = batches_of(3, 40.0, 40.5, 45.0)
    # MS_between 3 · var(means), MS_within 1, n₀ 3: F ÷ (1 + 3 · ratio²)
    f = 3 * np.var([40.0, 40.5, 45.0], ddof=1)
    found = unlike_batch(values, batches)
    assert stats.f.sf(f / 1.75, 2, 6) < 0.05
    assert (found.batch, found.difference) == ("2", pytest.approx(4.75))
    assert found.relative == pytest.approx(4.75 / 40.25)
    # beside other arms that scatter as much from batch to batch, or among many arms, it is nothing
    ratio = next(r for r in np.arange(0.5, 5, 0.01) if stats.f.sf(f / (1 + 3 * r**2), 2, 6) > 0.05)
    assert unlike_batch(values, batches, ratio + 0.02) is None
    assert unlike_batch(values, batches, ratio - 0.02) is not None
    many = next(k for k in range(1, 999) if stats.f.sf(f / 1.75, 2, 6) > 0.05 / k)
    assert unlike_batch(values, batches, groups=many) is None
    assert unlike_batch(values, batches, groups=many - 1) is not None


def test_what_cannot_tell_batches_apart_tells_nothing():
    assert unlike_batch([1.0, 2.0, 3.0], ["a"] * 3) is None
    assert unlike_batch([1.0, 9.0], ["a", "b"]) is None
    assert unlike_batch([1.0, 1.0, 9.0, 9.0], ["a", "a", "b", "b"]) is None, "no scatter, and no reading step"
    assert unlike_batch([1.0, 1.0, 9.0, 9.0], ["a", "a", "b", "b"], reading_step=0.1).batch in "ab"
    assert unlike_batch([-1.0, -1.2, -1.1, -9.0, -9.1, -9.2], list("aaabbb")).relative is None


def test_groups_that_should_be_alike_differ_beyond_margin_scatter_and_batches():
    a, b = summarise([40.0, 41.0, 42.0]), summarise([48.0, 49.0, 50.0])
    # variance (1/3 + 0.25) of each, sd 1, 4 df: 8 against t · 1.0801
    limit = stats.t.ppf(0.975, 4) * np.sqrt(2 * (1 / 3 + 0.25))
    assert limit < 8
    assert differs_beyond_batches(a, b, 4.0)
    assert differs_beyond_batches(b, a, 4.0)
    assert not differs_beyond_batches(a, b, 8.0), "not more than matters"
    near = summarise([41 + limit - 1.01, 41 + limit - 0.01, 41 + limit + 0.99])
    assert not differs_beyond_batches(a, near, 0.1)
    assert differs_beyond_batches(a, summarise([41 + limit - 0.99, 41 + limit + 0.01, 41 + limit + 1.01]), 0.1)
    assert not differs_beyond_batches(a, b, 4.0, ratio=3.0)
    assert not differs_beyond_batches(a, b, 4.0, comparisons=200)
    assert not differs_beyond_batches(a, summarise([49.0]), 4.0), "one specimen has no scatter"
    assert differs_beyond_batches(summarise([4.0, 4.0]), summarise([5.0, 5.0]), 0.5)
