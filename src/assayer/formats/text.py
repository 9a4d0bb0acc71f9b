"""Bytes of a text file to lines and cells: encoding, line ends, quotes."""

from __future__ import annotations

import csv
from pathlib import Path

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
    source = Path(path)
    try:
        size = source.stat().st_size
        if size > MAX_BYTES:
            raise TooLargeError(f"the file has {size / 1e6:.0f} MB; at most {MAX_BYTES / 1e6:.0f} MB are read: export fewer rows a second")
        return source.read_bytes()
    except OSError as error:
        raise FileError(f"cannot read '{source}': {error.strerror or error}") from None


def read_lines(data: bytes) -> tuple[list[str], str]:
    """Lines without their ends (empty ones at the end dropped) and the encoding: UTF-8, UTF-16 or Windows-1252.

    Raises
    ------
    FileError
        If there is nothing in it, it is too large, or it is no text.
    """
    text, encoding = _decode(data)
    if "\r" in text:
        text = text.replace("\r\n", "\n").replace("\r", "\n")
    lines = text.split("\n")
    while lines and not lines[-1].strip():
        lines.pop()
    return lines, encoding


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
