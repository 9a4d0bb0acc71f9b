"""Numbers in fixed notation ("-0.1487"), as nearly all rigs write them, read for many cells at once.

A cell is cut into what stands before its point and what stands after it, each at most eight characters. Eight characters
lie in one 64-bit word, and three multiplications make a number of them. Sign, digits and power of ten are exact in double
precision up to 15 digits, and one division rounds once, so that every value is the one that `float` makes of the cell.

References
----------
1. D. Lemire, "Quickly parsing eight digits", 2018 (digits of a word by multiplication).
2. W. D. Clinger, "How to read floating point numbers accurately", PLDI 1990 (when one division is enough).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

_WORD = 8
_DIGITS = 15
"""Any integer of so many digits is exact in double precision, and so is a power of ten."""
_POWERS = 10.0 ** np.arange(_DIGITS + 1)

_ZEROS = np.uint64(0x3030303030303030)
_PAIRS = np.uint64(0x000000FF000000FF)
_TEN, _BYTE, _TWO_BYTES, _HALF = np.uint64(10), np.uint64(8), np.uint64(16), np.uint64(32)
_FIRST_PAIRS = np.uint64(100 + (1_000_000 << 32))
_SECOND_PAIRS = np.uint64(1 + (10_000 << 32))


def read_fixed(text: str, rows: int, width: int, delimiter: str, point: str) -> NDArray[np.float64] | None:
    """The numbers of a table all of whose cells are in fixed notation.

    Parameters
    ----------
    text : str
        Rows of cells, each row with a line end but the last.
    rows, width : int
        How many rows of how many cells there should be.
    delimiter : str
        One ASCII character between the cells of a row; anything where there is one cell a row.
    point : str
        "." or ",".

    Returns
    -------
    ndarray, shape (rows, width), or None
        None where a cell is anything else: empty, padded, in exponents, without a point, of more digits; or a row has
        another number of cells.
    """
    raw = np.frombuffer(b"0" * _WORD + text.encode() + b"\n", np.uint8)
    end = raw == ord("\n")
    if width > 1:
        end |= raw == ord(delimiter)
    ends, points = end.nonzero()[0], (raw == ord(point)).nonzero()[0]
    if ends.size != rows * width or points.size != ends.size or not (raw.take(ends[width - 1 :: width]) == ord("\n")).all():
        return None
    starts = np.empty_like(ends)
    starts[0] = _WORD
    np.add(ends[:-1], 1, out=starts[1:])
    negative = raw.take(starts) == ord("-")
    before = points - starts
    before -= negative
    after = ends - points
    after -= 1
    most = _greatest(before), _greatest(after)
    if max(most) > _WORD or sum(most) > _DIGITS or not (before | after).all():
        return None
    # what is neither mark nor sign must be a digit
    others = ends.size + points.size + np.count_nonzero(negative)
    if np.count_nonzero(raw - np.uint8(ord("0")) < 10) != raw.size - others:
        return None
    # a word begins at every byte
    words = np.ndarray((raw.size - _WORD + 1,), np.dtype("<u8"), raw, strides=(1,))
    both = _number(words.take(np.concatenate((points, ends)) - _WORD), np.concatenate((before, after)))
    whole, part = both[: ends.size], both[ends.size :]
    scale = _POWERS.take(after)
    whole *= scale
    whole += part
    whole /= scale
    np.negative(whole, out=whole, where=negative)
    return whole.reshape(rows, width)


def _greatest(lengths: NDArray[np.intp]) -> int:
    """The greatest of some lengths; a negative one, which there cannot be, counts as beyond all others."""
    return int(lengths.view(np.uintp).max())


def _number(words: NDArray[np.uint64], length: NDArray[np.intp]) -> NDArray[np.float64]:
    """The number that the last `length` characters of each word make, all of them digits. Works within `words`."""
    words ^= _ZEROS
    # what stands before becomes zeros in front
    beyond = ((_WORD - length) << 3).astype(np.uint64)
    words >>= beyond
    words <<= beyond
    # the first character is the lowest byte: pairs, then fours, then all eight
    shifted = words >> _BYTE
    words *= _TEN
    words += shifted
    np.right_shift(words, _TWO_BYTES, out=shifted)
    words &= _PAIRS
    words *= _FIRST_PAIRS
    shifted &= _PAIRS
    shifted *= _SECOND_PAIRS
    words += shifted
    words >>= _HALF
    return words.astype(np.float64)
