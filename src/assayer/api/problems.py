"""Errors as problem+json (RFC 9457): one place turns the exceptions of the inner layers into answers."""

from __future__ import annotations

import logging
from typing import Any

from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field
from starlette.exceptions import HTTPException

from assayer.api.refusal_words import field_words, reason
from assayer.core.errors import (
    AssayerError,
    ConflictError,
    DamagedError,
    DataFolderError,
    EntryError,
    FileError,
    MissingError,
    QuestionError,
    StaleError,
    TooLargeError,
    UnclearFileError,
)
from assayer.formats.text import MAX_BYTES
from assayer.services.bench.views import FilePreviewView
from assayer.services.views import QuestionView, View

log = logging.getLogger("assayer.api")


class FieldProblem(BaseModel):
    field: str
    detail: str


class FileQuestionView(View):
    """What is not certain about a file: which column (from 1), and what it may be."""

    about: str
    column: int | None
    text: str
    choices: list[str | int]


class Problem(BaseModel):
    """What was wrong, with which field, row or line, and what to do."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    field: str | None = None
    row: int | None = None
    line: int | None = None
    errors: list[FieldProblem] = Field(default_factory=list)
    questions: list[QuestionView] = Field(default_factory=list)
    file_questions: list[FileQuestionView] = Field(default_factory=list)
    preview: FilePreviewView | None = None
    current: Any = None


_KINDS: list[tuple[type[AssayerError], int, str]] = [
    (MissingError, 404, "Not found"),
    (StaleError, 412, "Changed in the meantime"),
    (ConflictError, 409, "Does not fit what is there"),
    (UnclearFileError, 422, "The file leaves a question"),
    (TooLargeError, 413, "Too large"),
    (FileError, 422, "The file cannot be used"),
    (EntryError, 422, "An entry is wrong"),
    (DamagedError, 503, "The data are damaged"),
    (DataFolderError, 507, "Not saved"),
    (AssayerError, 422, "Not possible"),
]
TITLES = {status: title for _, status, title in reversed(_KINDS)} | {400: "Not understood", 405: "Not allowed", 428: "State missing"}


TOO_LARGE = f"more bytes than are taken here: a recording may have {MAX_BYTES / 1e6:.0f} MB (export fewer rows a second), any other request 2 MB"


def answer(problem: Problem) -> JSONResponse:
    told = {name: value for name, value in problem.model_dump().items() if value is not None}
    return JSONResponse(jsonable_encoder(told), status_code=problem.status, media_type="application/problem+json")


def install(app: FastAPI) -> None:
    """Register the handlers."""

    @app.exception_handler(AssayerError)
    async def _ours(_request: Request, error: AssayerError) -> JSONResponse:
        status, title = next((s, t) for kind, s, t in _KINDS if isinstance(error, kind))
        return answer(
            Problem(
                title=title,
                status=status,
                detail=str(error),
                field=getattr(error, "field", None),
                row=getattr(error, "row", None),
                line=getattr(error, "line", None),
                questions=[QuestionView.model_validate(q) for q in error.questions] if isinstance(error, QuestionError) else [],
                file_questions=[FileQuestionView.model_validate(q) for q in error.questions] if isinstance(error, UnclearFileError) else [],
                preview=FilePreviewView.model_validate(error.preview) if isinstance(error, UnclearFileError) else None,
                current=getattr(error, "current", None),
            )
        )

    @app.exception_handler(RequestValidationError)
    async def _invalid(_request: Request, error: RequestValidationError) -> JSONResponse:
        fields = [FieldProblem(field=".".join(str(p) for p in e["loc"][1:]) or str(e["loc"][0]), detail=reason(e)) for e in error.errors()]
        if all(e["loc"][0] == "path" and e["type"] == "string_pattern_mismatch" for e in error.errors()):
            # no id at all: there is nothing under it either
            return answer(Problem(title=TITLES[404], status=404, detail="there is nothing at this address: it may be incomplete or mistyped"))
        first = fields[0]
        detail = f"{field_words(error.errors()[0]['loc'])}: {first.detail}"
        return answer(Problem(title="An entry is wrong", status=422, detail=detail, field=first.field, errors=fields))

    @app.exception_handler(HTTPException)
    async def _http(_request: Request, error: HTTPException) -> JSONResponse:
        if error.status_code == 413:
            error.detail = TOO_LARGE
        response = answer(Problem(title=TITLES.get(error.status_code, "Problem"), status=error.status_code, detail=str(error.detail)))
        response.headers.update(error.headers or {})
        return response

    @app.exception_handler(Exception)
    async def _unforeseen(request: Request, error: Exception) -> JSONResponse:
        log.exception("unforeseen error at %s %s", request.method, request.url.path, exc_info=error)
        return answer(Problem(title="Our mistake", status=500, detail="something went wrong in Assayer itself; nothing was saved. The log names the place."))
