"""What the API's OpenAPI description says of answers: problems, the same request again, files."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NotRequired, TypedDict, cast

from fastapi import APIRouter
from fastapi.routing import APIRoute

from assayer.api.problems import TITLES, Problem

Schema = dict[str, str]
"""A JSON Schema of one line: a type and its format, or where it stands."""


class Content(TypedDict):
    """What one media type holds."""

    schema: Schema


class Answer(TypedDict, total=False):
    """One answer, as OpenAPI describes it (`$ref` left aside)."""

    description: str
    content: dict[str, Content]


class RequestBody(TypedDict):
    required: bool
    content: dict[str, Content]


class Operation(TypedDict):
    responses: dict[str, Answer | Schema]


class Components(TypedDict):
    responses: NotRequired[dict[str, Answer | Schema]]
    schemas: dict[str, object]


class Document(TypedDict):
    """The parts of a whole description that are looked at here."""

    paths: dict[str, dict[str, Operation]]
    components: Components


Answers = dict[int | str, dict[str, object]]
"""By status, as FastAPI takes them for `responses=`: each an `Answer`."""


def _answer(answer: Answer) -> dict[str, object]:
    return dict(answer)


def _file(media_type: str, what: str, binary: bool = False) -> Answers:
    schema = {"type": "string"} | ({"format": "binary"} if binary else {})
    return {200: _answer({"description": what, "content": {media_type: {"schema": schema}}})}


AGAIN: Answers = {200: {"description": "the same request came before; nothing was changed"}}
BINARY = _file("application/octet-stream", "head and float32 columns, see the README", binary=True)
CSV = _file("text/csv", "the table")
ZIP = _file("application/zip", "the backup", binary=True)
PICTURE = _file("image/*", "the picture", binary=True)
SOLID = _file("model/*", "the solid", binary=True)
GCODE = _file("text/x-gcode", "the file", binary=True)
SVG = _file("image/svg+xml", "the label")

_BYTES: RequestBody = {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}
BYTES: dict[str, object] = {"requestBody": _BYTES}
"""The body of a route that takes a file as it is."""


def declared(*statuses: int) -> Answers:
    """The `responses=` of a route that may answer with these problems; those that any request may meet go without saying.

    Told as where the schema stands, not as a model: FastAPI would build it anew for each route and status, a fifth of a start.
    """
    wanted = {*statuses, 400, 413, 422, 503, 507}
    return {
        status: _answer(
            {
                "description": TITLES.get(status, "Problem"),
                "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
            }
        )
        for status in sorted(wanted)
    }


def describe_once(description: dict[str, object]) -> None:
    """Put each problem of a description in one place, referred to by the routes that may answer with it."""
    document = cast("Document", description)
    problem = Problem.model_json_schema(mode="serialization", ref_template="#/components/schemas/{model}")
    for told in problem["properties"].values():
        # what is left out says nothing: as FastAPI tells it of every other answer
        if "default" in told and told["default"] is None:
            del told["default"]
    for name, schema in {**problem.pop("$defs", {}), "Problem": problem}.items():
        document["components"]["schemas"].setdefault(name, schema)
    shared = document["components"].setdefault("responses", {})
    for operations in document["paths"].values():
        for operation in operations.values():
            for status, answer in operation["responses"].items():
                content = cast("Answer", answer).get("content", {})
                if "application/problem+json" in content:
                    shared[f"Problem{status}"] = answer
                    operation["responses"][status] = {"$ref": f"#/components/responses/Problem{status}"}


def methods_at(areas: Iterable[APIRouter], path: str) -> set[str]:
    """The methods that the routes of these areas know at a path; none where they know nothing there."""
    found: set[str] = set()
    for route in (r for area in areas for r in area.routes if isinstance(r, APIRoute)):
        if route.path_regex.match(path):
            found |= route.methods or set()
    return found | ({"HEAD"} if "GET" in found else set())
