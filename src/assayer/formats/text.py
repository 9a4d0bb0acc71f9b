"""Bytes of a text file to lines and cells: encoding, line ends, quotes."""

from __future__ import annotations

import csv
import os
from collections.abc import Sequence
from pathlib import Path
from typing import overload

import numpy as np

from assayer.core.errors import FileError, TooLargeError

MAX_BYTES = 50_000_000
_CONTROLS = bytes([*range(9), *range(14, 32)])


def read_bytes(path: Path | str) -> bytes:
    """The bytes of a file of at most `MAX_BYTES`.

    Raises
    ------
    FileError
        If it cannot be read or is too large.
    """
    try:
        with open(path, "rb", buffering=0) as file:
            size = os.fstat(file.fileno()).st_size
            if size > MAX_BYTES:
                raise TooLargeError(f"the file has {size / 1e6:.0f} MB; at most {MAX_BYTES / 1e6:.0f} MB are read: export fewer rows a second")
            return file.read()
    except OSError as error:
        raise FileError(f"cannot read '{path}': {error.strerror or error}") from None


class Lines(Sequence[str]):
    """The lines of a text, each cut out when it is asked for: of a long recording hardly any are."""

    __slots__ = ("_ends", "_text")

    def __init__(self, text: str) -> None:
        codes = np.frombuffer(text.encode(), np.uint8) if text.isascii() else np.frombuffer(text.encode("utf-32-le"), "<u4")
        self._text = text
        self._ends = np.concatenate(((codes == ord("\n")).nonzero()[0], (len(text),)))

    def __len__(self) -> int:
        return self._ends.size

    @overload
    def __getitem__(self, index: int) -> str: ...

    @overload
    def __getitem__(self, index: slice) -> list[str]: ...

    def __getitem__(self, index: int | slice) -> str | list[str]:
        if isinstance(index, slice):
            start, stop, step = index.indices(len(self))
            if step != 1:
                return [self[i] for i in range(start, stop, step)]
            return self.text(start, stop).split("\n") if start < stop else []
        end = self._ends.item(index)
        at = index % self._ends.size
        return self._text[self._ends.item(at - 1) + 1 if at else 0 : end]

    def text(self, start: int, stop: int) -> str:
        """The lines from `start` up to but not `stop`, of which there is at least one, as they stand in the text."""
        return self._text[self._ends[start - 1] + 1 if start else 0 : self._ends[min(stop, len(self)) - 1]]


def read_lines(data: bytes) -> tuple[Lines, str]:
    """Lines without their ends (empty ones at the end dropped) and the encoding: UTF-8, UTF-16 or Windows-1252.

    Raises
    ------
    FileError
        If there is nothing in it, it is too large, or it is no text.
    """
    text, encoding = _decode(data)
    if "\r" in text:
        text = text.replace("\r\n", "\n").replace("\r", "\n")
    filled = len(text.rstrip())
    if not filled:
        raise FileError("the file is empty: export it again")
    last = text.find("\n", filled)
    return Lines(text if last < 0 else text[:last]), encoding


def split_row(line: str, delimiter: str) -> list[str]:
    """The cells of a row, stripped, without empty ones at the end; delimiter "" means one cell, " " any white space."""
    if '"' in line and delimiter != " ":
        cells = next(csv.reader([line], delimiter=delimiter or "\x1f"), [])
    elif delimiter == " ":
        cells = line.split()
    elif delimiter == "":
        cells = [line]
    else:
        cells = line.split(delimiter)
    cells = [c.strip() for c in cells]
    while len(cells) > 1 and not cells[-1]:
        cells.pop()
    return cells


def _decode(data: bytes) -> tuple[str, str]:
    if not data.strip(b"\x00 \t\r\n\xef\xbb\xbf\xff\xfe"):
        raise FileError("the file is empty: export it again")
    if len(data) > MAX_BYTES:
        raise TooLargeError(f"the file has {len(data) / 1e6:.0f} MB; at most {MAX_BYTES / 1e6:.0f} MB are read: export fewer rows a second")
    head = data[:4096]
    wide = _wide_encoding(head)
    if wide is not None:
        try:
            return data[: len(data) // 2 * 2].decode(wide).lstrip("\ufeff"), wide
        except UnicodeDecodeError:
            raise FileError("the file starts like UTF-16 text but is damaged: export it again") from None
    if len(head.translate(None, _CONTROLS)) < 0.99 * len(head):
        raise FileError("this is not a text file: export it as CSV or text")
    try:
        # the codec that takes the mark off by itself is several times slower
        return data.decode("utf-8").removeprefix("\ufeff"), "utf-8"
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace"), "windows-1252"


def _wide_encoding(head: bytes) -> str | None:
    if head.startswith(b"\xff\xfe"):
        return "utf-16-le"
    if head.startswith(b"\xfe\xff"):
        return "utf-16-be"
    # text without a mark: every second byte of Western text is zero
    if len(head) >= 8 and head[1::2].count(0) > 0.9 * (len(head) // 2) and not head[0::2].count(0):
        return "utf-16-le"
    if len(head) >= 8 and head[0::2].count(0) > 0.9 * (len(head) // 2) and not head[1::2].count(0):
        return "utf-16-be"
    return None
