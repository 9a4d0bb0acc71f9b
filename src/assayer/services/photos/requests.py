"""What the use cases of photographs are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from assayer.services.requests import Real, Request, Words

SubjectKind = Literal["trial", "run", "spool", "specimen", "batch"]


class PhotoEdit(Request):
    caption: Words | None = None
    scale: Annotated[Real, Field(gt=0, le=100, description="mm a pixel, by a mark in the picture")] | None = None
