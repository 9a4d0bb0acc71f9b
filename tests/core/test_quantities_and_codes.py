"""What people type is understood or refused with words; codes catch misreadings."""

import itertools
import random
from datetime import UTC, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from assayer.core.codes import SYMBOLS, make_code, parse_code, with_check
from assayer.core.errors import CodeError, EntryError
from assayer.core.ids import uuid7
from assayer.core.plan.order import random_order
from assayer.core.quantities.units import FORCE, LENGTH, STRAIN, TEMPERATURE, parse_number, parse_quantity


@pytest.mark.parametrize(
    "text, dimension, default, value",
    [
        ("12,5 kgf", FORCE, None, 122.583125),
        ("12.5", FORCE, "kgf", 122.583125),
        ("4.02 mm", LENGTH, None, 4.02),
        ("402", LENGTH, "1/100 mm", 4.02),
        ("402 1/100 mm", LENGTH, None, 4.02),
        ("0,158in", LENGTH, None, 4.0132),
        ("1,234", LENGTH, None, 1.234),
        ("2 kN", FORCE, None, 2000.0),
        ("850 g", FORCE, None, 8.3356525),
        ("1.2e2 N", FORCE, None, 120.0),
        ("212 °F", TEMPERATURE, None, 100.0),
        ("0.25 %", STRAIN, None, 0.0025),
        (".5", LENGTH, None, 0.5),
        ("−3", FORCE, "N", -3.0),
    ],
)
def test_entries_as_people_write_them(text, dimension, default, value):
    found = parse_quantity(text, dimension, default)
    assert found.value == pytest.approx(value, rel=1e-12)
    assert found.raw == text


@pytest.mark.parametrize(
    "text, words",
    [
        ("", "nothing entered"),
        ("abc", "'abc' is not a number"),
        ("1.234,5", "thousands separators"),
        ("1 234", "thousands separators"),
        ("1,234,567", "thousands separators"),
        ("4.02 kg", "'kg' is not a unit of length: use one of mm"),
        ("nan", "not a number"),
        ("4..2", "is not a number|is not a unit"),
        ("١٢", "."),
    ],
)
def test_entries_that_are_refused_say_why(text, words):
    if text == "١٢":
        # digits of another script are digits too
        assert parse_quantity(text, LENGTH).value == 12
        return
    with pytest.raises(EntryError, match=words) as caught:
        parse_quantity(text, LENGTH, field="width")
    assert caught.value.field == "width"


@given(st.floats(-1e6, 1e6).map(lambda v: round(v, 4)))
def test_a_number_is_read_back_whichever_mark_it_has(value):
    assert parse_number(f"{value:.4f}") == pytest.approx(value)
    assert parse_number(f"{value:.4f}".replace(".", ",")) == pytest.approx(value)


def test_the_check_character_catches_every_single_error_and_exchange():
    rng = random.Random(4)
    for body in ("".join(rng.choices(SYMBOLS, k=n)) for n in (4, 4, 5)):
        code = with_check(body)
        assert parse_code(code) == code
        for i, wrong in itertools.product(range(len(code)), SYMBOLS):
            if wrong != code[i]:
                with pytest.raises(CodeError, match="wrong check character"):
                    parse_code(code[:i] + wrong + code[i + 1 :])
        for i, j in itertools.combinations(range(len(code)), 2):
            swapped = list(code)
            swapped[i], swapped[j] = code[j], code[i]
            if code[i] != code[j]:
                with pytest.raises(CodeError, match="wrong check character"):
                    parse_code("".join(swapped))


def test_codes_forgive_case_lookalikes_and_urls_but_not_length():
    code = with_check("7K01")
    typed = code.lower().replace("0", "o").replace("1", "l")
    assert parse_code(f" {typed[:2]}-{typed[2:]} ") == code
    assert parse_code(f"http://127.0.0.1:8717/s/{code}") == code
    with pytest.raises(CodeError, match="5 or 6 symbols"):
        parse_code("7K2")
    with pytest.raises(CodeError, match="'U' is never used"):
        parse_code("7U2QF")


def test_codes_grow_when_four_symbols_are_used_up():
    assert len(make_code(lambda code: len(code) == 5)) == 6


def test_ids_sort_by_time_and_orders_are_reproducible():
    early, late = uuid7(datetime(2026, 1, 1, tzinfo=UTC)), uuid7(datetime(2026, 1, 2, tzinfo=UTC))
    assert str(early) < str(late)
    assert (early.version, early.variant) == (7, "specified in RFC 4122")
    # RFC 9562: the first 48 bits are the milliseconds since 1970
    assert early.int >> 80 == datetime(2026, 1, 1, tzinfo=UTC).timestamp() * 1000
    ids = [f"s{i}" for i in range(20)]
    assert random_order(ids, 7) == random_order(reversed(ids), 7) != sorted(ids)


def _gf32(a, b):
    """The product in GF(32) over x⁵ + x² + 1, by the school method: partial products, then division by the polynomial."""
    product = 0
    for bit in range(5):
        product ^= (a << bit) if b >> bit & 1 else 0
    for bit in range(9, 4, -1):
        product ^= 0b100101 << (bit - 5) if product >> bit & 1 else 0
    return product


@pytest.mark.parametrize("body", ["0000", "0001", "7K01", "ZZZZ", "VE7K", "9A3FX"])
def test_the_check_character_makes_the_weighted_sum_vanish(body):
    """Σ αⁿ⁻¹⁻ⁱ·vᵢ over all symbols, the check character last, is 0; α is 2."""
    total = 0
    for i, symbol in enumerate(reversed(with_check(body))):
        weight = 1
        for _ in range(i):
            weight = _gf32(weight, 2)
        total ^= _gf32(weight, SYMBOLS.index(symbol))
    assert total == 0
