"""Blocks of G-code as words: a letter and a number each, on their lines.

A file has millions of lines, so whole blocks are read at once; a line in an unusual form is first brought to the
plain one. The dialect is the common core of the RepRap firmwares.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST_REMARKS = 20
"""Remarks that are told in full; further ones are counted."""

_SPACE, _BREAK, _LETTER, _DIGIT, _DOT, _SIGN, _OTHER = range(7)

_KINDS = np.full(256, _OTHER, np.uint8)
_KINDS[[32, 9, 13]] = _SPACE
_KINDS[10] = _BREAK
_KINDS[ord("A") : ord("Z") + 1] = _LETTER
_KINDS[ord("0") : ord("9") + 1] = _DIGIT
_KINDS[ord(".")] = _DOT
_KINDS[[ord("+"), ord("-")]] = _SIGN

_BLANKED = bytes(32 if _KINDS[c] in (_SPACE, _BREAK, _LETTER) else c for c in range(256))
"""All but the numbers made blank, so that these can be read in one go."""

_COMMENTS = re.compile(rb";[^\n]*|\([^)\n]*\)")
_WORD = re.compile(rb"([A-Z])\s*([-+]?(?:\d+\.?\d*|\.\d+))?")
_NUMBERED = re.compile(rb"^N\s*\d+\s*")
_CHECKSUM = re.compile(rb"\*\s*\d+\s*$")

_WITH_FLAGS = (b"G28", b"M84", b"M18", b"M17", b"M82", b"M83", b"G92", b"G29", b"M220", b"M221", b"M900")
"""Commands whose letters may stand without a number."""


@dataclass(frozen=True, slots=True)
class Remark:
    """Something about a line of a file: `line` counts from 1."""

    line: int
    text: str


@dataclass(slots=True)
class Remarks:
    """What was odd about a file: the first in full, the others counted; unknown commands by how often."""

    told: list[Remark] = field(default_factory=list)
    count: int = 0
    unknown: dict[str, int] = field(default_factory=dict)

    def add(self, line: int, text: str) -> None:
        self.count += 1
        if len(self.told) < MOST_REMARKS:
            self.told.append(Remark(line, text))

    def keep(self, command: str, times: int = 1) -> None:
        self.unknown[command] = self.unknown.get(command, 0) + times


@dataclass(frozen=True, slots=True)
class Words:
    """The words of a block in the order of the file; three columns of equal length.

    `row` is the line within the block, from 0; `letter` the letter's code; `value` its number.
    """

    row: Ints
    letter: NDArray[np.uint8]
    value: Floats
    rows: int


SETTING_COMMANDS: dict[str, tuple[int, ...]] = {
    "nozzle_temperature": (104, 109),
    "bed_temperature": (140, 190),
    "fan": (106, 107),
    "speed": (220,),
    "flow": (221,),
    "retraction": (207,),
}
"""M commands that set what a tower can step."""


def rows_setting(words: Words, setting: str) -> Ints:
    """Rows of a block that set a setting, in every spelling that is read; fans other than that of the part are passed over."""
    rows = rows_of(words, "M", SETTING_COMMANDS[setting])
    if setting == "fan":
        rows = np.setdiff1d(rows, words.row[(words.letter == ord("P")) & (words.value != 0)])
    return rows


def rows_of(words: Words, letter: str, codes: Sequence[int]) -> Ints:
    """Rows of a block that begin with one of these commands."""
    starts = np.flatnonzero(np.diff(words.row, prepend=-1))
    matches = (words.letter[starts] == ord(letter)) & np.isin(words.value[starts], codes)
    rows: Ints = words.row[starts[matches]]
    return rows


def read_words(block: bytes, first_line: int, remarks: Remarks) -> Words:
    """Read a block of whole lines.

    Parameters
    ----------
    block : bytes
        Ends at the end of a line, or of the file.
    first_line : int
        The number of its first line in the file, from 1.
    remarks : Remarks
        Takes what could not be read; such a line counts as empty.
    """
    rows = block.count(b"\n") + (not block.endswith(b"\n") and bool(block))
    if b";" in block or b"(" in block:
        block = _COMMENTS.sub(b"", block)
    odd = _odd_rows(np.frombuffer(block, np.uint8))
    if odd.size:
        lines = block.split(b"\n")
        for row in odd.tolist():
            lines[row] = _plain(lines[row], first_line + row, remarks)
        block = b"\n".join(lines)
    raw = np.frombuffer(block, np.uint8)
    at = np.flatnonzero(_KINDS[raw] == _LETTER)
    breaks = np.flatnonzero(raw == 10)
    value = np.fromstring(block.translate(_BLANKED).decode("ascii"), sep=" ") if at.size else np.zeros(0)
    return Words(np.searchsorted(breaks, at), raw[at], value, rows)


def _odd_rows(raw: NDArray[np.uint8]) -> Ints:
    """Rows that are not a sequence of letters, each followed at once by a plain number."""
    if not raw.size:
        return np.zeros(0, np.int64)
    kind = _KINDS[raw]
    after = np.append(kind[1:], _BREAK)
    before = np.insert(kind[:-1], 0, _BREAK)
    number = (kind == _DIGIT) | (kind == _DOT)
    starts = (number & ((before == _SPACE) | (before == _BREAK))) | ((kind == _SIGN) & (before != _LETTER))
    bare = ((kind == _LETTER) | (kind == _SIGN)) & ~((after == _DIGIT) | (after == _DOT) | ((after == _SIGN) & (kind == _LETTER)))
    bad = np.flatnonzero((kind == _OTHER) | starts | bare)
    at = np.flatnonzero(kind == _LETTER)
    if at.size:
        dots = np.add.reduceat((kind == _DOT).astype(np.int64), at)
        digits = np.add.reduceat((kind == _DIGIT).astype(np.int64), at)
        bad = np.concatenate([bad, at[(dots > 1) | (digits == 0)]])
    if not bad.size:
        return bad
    return np.unique(np.searchsorted(np.flatnonzero(raw == 10), bad))


def _plain(line: bytes, number: int, remarks: Remarks) -> bytes:
    """A line in an unusual form in the plain one; empty where it says nothing that is known or can be read."""
    text = _CHECKSUM.sub(b"", _NUMBERED.sub(b"", line.strip().upper())).strip()
    if not text:
        return b""
    found = _WORD.match(text)
    if found is None or not found[2]:
        if text[:1].isalpha() and text.isascii() and re.match(rb"[A-Z_]{3}", text):
            # a firmware's own word, such as a macro: kept as it is
            remarks.keep(text.split()[0].decode("ascii")[:40])
            return b""
        remarks.add(number, f"'{_shown(line)}' is no G-code")
        return b""
    command = found[1] + found[2]
    words, at = [command], found.end()
    while at < len(text):
        if text[at : at + 1].isspace():
            at += 1
            continue
        word = _WORD.match(text, at)
        if word is None or (not word[2] and not command.startswith(_WITH_FLAGS)):
            if command[:1] == b"M" or (command[:1] == b"G" and command not in (b"G0", b"G1", b"G2", b"G3", b"G92")):
                # text, as for a message on the display
                break
            remarks.add(number, f"'{_shown(line)}' cannot be read from '{_shown(text[at:])}' on: the line is passed over")
            return b""
        words.append(word[1] + (word[2] or b"0"))
        at = word.end()
    return b" ".join(words)


def _shown(line: bytes) -> str:
    return "".join(c if c.isprintable() else "·" for c in line.strip()[:40].decode("latin-1"))
