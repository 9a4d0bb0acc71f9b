"""Made-up photographs: the wall of a print, and a bar that broke."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def printed_wall(noise: np.random.Generator, depth: float) -> bytes:
    """A close-up of layered plastic: the deeper its waves, the rougher it looks."""
    height, width = 600, 900
    y, x = np.mgrid[0:height, 0:width]
    waves = np.sin(y / 3.4 + 0.6 * np.sin(x / 61.0) + depth / 26 * np.sin(y / 41.0)) * depth
    light = 176 + 34 * (x / width) - 40 * np.abs(y / height - 0.45) + waves + noise.standard_normal((height, width)) * 4
    grey = np.clip(light, 0, 255)
    return _jpeg(np.stack([grey, grey, np.clip(grey + 4.0, 0, 255)], axis=2))


def broken_bar(noise: np.random.Generator, colour: str, place: float, ragged: float) -> bytes:
    """Both halves of a bar after the test, on grey paper.

    Parameters
    ----------
    colour : str
        Of the filament, "#RRGGBB".
    place : float
        Where it broke, as a share of its length.
    ragged : float, pixels
        How far the fracture wanders; long where the material drew.
    """
    height, width = 420, 900
    y, x = np.mgrid[0:height, 0:width]
    waist = 52 + 46 * np.clip((np.abs(x - width / 2) - 170) / 60, 0, 1)
    crack = 60 + place * (width - 120) + np.interp(y, np.linspace(0, height, 24), noise.standard_normal(24) * ragged)
    gap = 9 + ragged / 3
    inside = (np.abs(y - height / 2) < waist) & (x > 60) & (x < width - 60) & (np.abs(x - crack) > gap)
    paper = 205 - 18 * (y / height) + noise.standard_normal((height, width)) * 3
    shade = 0.86 + 0.1 * np.sin(y / 2.6) - 0.12 * np.abs(y / height - 0.5)
    rgb = [int(colour[i : i + 2], 16) for i in (1, 3, 5)]
    layers = [np.where(inside, c * shade + 14 + noise.standard_normal((height, width)) * 4, paper) for c in rgb]
    return _jpeg(np.clip(np.stack(layers, axis=2), 0, 255))


def _jpeg(pixels: NDArray[np.float64]) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels.astype(np.uint8)).save(out, "JPEG", quality=86)
    return out.getvalue()
