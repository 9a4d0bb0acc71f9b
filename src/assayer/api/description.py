"""What the API's OpenAPI description says of answers: problems, the same request again, files."""

from __future__ import annotations

from typing import Any

from assayer.api.problems import TITLES, Problem

Answers = dict[int | str, dict[str, Any]]
"""By status, as FastAPI takes them for `responses=`."""

OpenApiDocument = dict[str, Any]
"""A whole description, as FastAPI makes it."""


def _file(media_type: str, what: str, binary: bool = False) -> Answers:
    schema = {"type": "string"} | ({"format": "binary"} if binary else {})
    return {200: {"description": what, "content": {media_type: {"schema": schema}}}}


AGAIN: Answers = {200: {"description": "the same request came before; nothing was changed"}}
BINARY = _file("application/octet-stream", "head and float32 columns, see the README", binary=True)
CSV = _file("text/csv", "the table")
ZIP = _file("application/zip", "the backup", binary=True)
SVG = _file("image/svg+xml", "the label")

BYTES: dict[str, Any] = {"requestBody": {"required": True, "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}}
"""The body of a route that takes a file as it is."""


def declared(*statuses: int) -> Answers:
    """The `responses=` of a route that may answer with these problems; those that any request may meet go without saying."""
    wanted = {*statuses, 400, 413, 422, 503, 507}
    return {
        status: {
            "model": Problem,
            "description": TITLES.get(status, "Problem"),
            "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
        }
        for status in sorted(wanted)
    }


def describe_once(description: OpenApiDocument) -> OpenApiDocument:
    """The description of the API with each problem in one place, referred to by the routes that may answer with it."""
    shared = description.setdefault("components", {}).setdefault("responses", {})
    for operations in description["paths"].values():
        for operation in operations.values():
            for status, response in operation["responses"].items():
                if "application/problem+json" in response.get("content", {}):
                    # FastAPI adds the model as plain JSON too, which is never sent
                    response["content"].pop("application/json", None)
                    shared[f"Problem{status}"] = response
                    operation["responses"][status] = {"$ref": f"#/components/responses/Problem{status}"}
    return description
