"""Human codes: four or five symbols of Crockford's base 32 and one check character over the same symbols.

The check character makes the weighted sum of all symbols zero in GF(32), with weights 1, α, α² … of a
primitive element α. Distinct, non-zero weights catch every single wrong symbol and every exchange of two
symbols, neighbours or not; a sum modulo 32 could not (32 is no prime).
"""

from __future__ import annotations

import re
import secrets
from collections.abc import Callable

from assayer.core.errors import CodeError

SYMBOLS = "0123456789ABCDEFGHJKMNPQRSTVWXYZ"
_VALUE = {symbol: value for value, symbol in enumerate(SYMBOLS)} | {"O": 0, "I": 1, "L": 1}
_POLYNOMIAL = 0b100101
"""x⁵ + x² + 1, primitive over GF(2)."""


def _times_alpha(value: int) -> int:
    doubled = value << 1
    return doubled ^ _POLYNOMIAL if doubled & 0b100000 else doubled


def _weighted_sum(values: list[int]) -> int:
    """Horner's rule in GF(32): Σ α^(n−1−i)·v_i."""
    total = 0
    for value in values:
        total = _times_alpha(total) ^ value
    return total


def with_check(body: str) -> str:
    """Append the check character to `body` (4 or 5 base-32 symbols)."""
    values = [_VALUE[s] for s in body]
    return body + SYMBOLS[_times_alpha(_weighted_sum(values))]


def make_code(taken: Callable[[str], bool], length: int = 4, choose: Callable[[str], str] = secrets.choice) -> str:
    """Draw a free code at random; grows to five symbols when four are getting scarce.

    Parameters
    ----------
    taken : callable
        Tells whether a code is in use already.
    choose : callable
        Draws one symbol; seeded for demo data.
    """
    for size in (length, length, length + 1):
        for _ in range(64):
            code = with_check("".join(choose(SYMBOLS) for _ in range(size)))
            if not taken(code):
                return code
    raise CodeError("no free code found: the space of codes is used up")


def parse_code(text: str, field: str | None = "code") -> str:
    """Read a code as typed or scanned; also out of a URL that ends in it.

    Forgives case, spaces, hyphens, and O, I, L for 0, 1, 1.

    Raises
    ------
    CodeError
        If the length, a symbol or the check character is wrong.
    """
    tail = text.strip().rstrip("/").rsplit("/", 1)[-1]
    squeezed = re.sub(r"[\s-]", "", tail).upper()
    if len(squeezed) not in (5, 6):
        raise CodeError(f"'{text.strip()[:40]}' is not a code: codes have 5 or 6 symbols", field)
    for symbol in squeezed:
        if symbol not in _VALUE:
            raise CodeError(f"'{squeezed}': the symbol '{symbol}' is never used in a code", field)
    values = [_VALUE[s] for s in squeezed]
    if _weighted_sum(values) != 0:
        raise CodeError(f"'{squeezed}' has a wrong check character: a symbol was misread, type or scan it again", field)
    return "".join(SYMBOLS[v] for v in values)
