"""A stepped series in the address, for what is downloaded."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, Query

from assayer.services.dial_in.requests import SeriesIn


async def _series(
    setting: Annotated[str, Query(min_length=1, max_length=40)],
    start: Annotated[float, Query(ge=-100, le=1000)],
    step: Annotated[float, Query(ge=-500, le=500)],
    band_height: Annotated[float, Query(gt=0, le=200)],
    count: Annotated[int | None, Query(ge=1, le=100)] = None,
    end: Annotated[float | None, Query(ge=-100, le=1000)] = None,
    base_height: Annotated[float, Query(ge=0, le=100)] = 0,
) -> SeriesIn:
    """A stepped series in the address, for what is downloaded."""
    return SeriesIn(setting=setting, start=start, step=step, count=count, end=end, band_height=band_height, base_height=base_height)


SeriesDep = Annotated[SeriesIn, Depends(_series)]
