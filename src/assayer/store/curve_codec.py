"""Curves as bytes: zstd over column- and byte-shuffled float32, in about half the space of plain zstd."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import zstandard
from numpy.typing import NDArray

_LEVEL = 3


def pack(columns: Sequence[NDArray[np.floating]]) -> bytes:
    """Compress columns of equal length to bytes; kept as float32."""
    block = np.stack([np.asarray(c, np.float32) for c in columns])
    shuffled = block.view(np.uint8).reshape(block.shape[0], -1, 4).transpose(0, 2, 1)
    return zstandard.ZstdCompressor(level=_LEVEL).compress(np.ascontiguousarray(shuffled).tobytes())


def unpack(data: bytes, width: int) -> NDArray[np.float32]:
    """The columns again, shape (width, rows)."""
    raw = np.frombuffer(zstandard.ZstdDecompressor().decompress(data), np.uint8)
    shuffled = raw.reshape(width, 4, -1).transpose(0, 2, 1)
    return np.ascontiguousarray(shuffled).view(np.float32).reshape(width, -1)
