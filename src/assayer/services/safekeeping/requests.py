"""What is asked of safekeeping."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, StringConstraints

from assayer.services.requests import Request, printable


class BackupFolder(Request):
    folder: Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000), AfterValidator(printable)]
    """An empty text: beside the data."""
