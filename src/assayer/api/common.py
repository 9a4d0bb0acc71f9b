"""What routes share: the workspace, the actor, ETags."""

from __future__ import annotations

import re
from typing import Annotated
from urllib.parse import unquote

from fastapi import APIRouter, Depends, Header, HTTPException, Query, Request, Response

from assayer.core.errors import TooLargeError
from assayer.services.unit import Actor, Workspace
from assayer.services.views import View


def area() -> APIRouter:
    """Where the routes of an area stand: below /api, each called in the description what its function is called."""
    return APIRouter(prefix="/api", generate_unique_id_function=lambda route: route.name)


# none of these waits for anything: what is no coroutine would be handed to another thread for it, thrice with every entry
async def _workspace(request: Request) -> Workspace:
    found: Workspace = request.app.state.workspace
    return found


async def _actor(
    assayer_person: Annotated[str, Header(max_length=240, description="name of who does it, percent-encoded")] = "somebody",
    assayer_zone: Annotated[str, Header(max_length=64, pattern=r"^[A-Za-z0-9_+/-]+$", description="IANA time zone")] = "UTC",
) -> Actor:
    return Actor(unquote(assayer_person).strip()[:80] or "somebody", assayer_zone)


async def _revision(if_match: Annotated[str | None, Header(max_length=40, description='the ETag that was read, such as "3"')] = None) -> int:
    """Edits must say which state they were made against."""
    if if_match is None:
        raise HTTPException(428, "send the ETag of the state you read as If-Match, so that nobody's change is overwritten")
    match = re.fullmatch(r'(?:W/)?"(\d{1,9})"', if_match.strip())
    # a tag that is none of ours is that of no state; what is sent is looked through first
    return int(match[1]) if match else -1


async def _opened_at(request: Request) -> str:
    """The address that the browser has used, as another one on the same network would write it."""
    return str(request.base_url).rstrip("/")


WorkspaceDep = Annotated[Workspace, Depends(_workspace)]
ActorDep = Annotated[Actor, Depends(_actor)]
RevisionDep = Annotated[int, Depends(_revision)]
OpenedAtDep = Annotated[str, Depends(_opened_at)]
Limit = Annotated[int, Query(ge=1, le=500)]
Offset = Annotated[int, Query(ge=0, le=1_000_000)]


def tagged(response: Response, revision: int) -> None:
    response.headers["ETag"] = f'"{revision}"'


async def whole_body(request: Request, most: int, advice: str) -> bytes:
    """The bytes that are sent, read while they come; too many are refused before the last of them is there."""
    pieces: list[bytes] = []
    size = 0
    async for piece in request.stream():
        size += len(piece)
        if size > most:
            raise TooLargeError(f"the file has more than {most / 1e6:.0f} MB: {advice}")
        pieces.append(piece)
    return b"".join(pieces)


def made(body: View, is_new: bool, revision: int | None = None) -> Response:
    """201 for what was made now, 200 where the same request came before."""
    headers = {"ETag": f'"{revision}"'} if revision is not None else None
    return Response(body.model_dump_json(), status_code=201 if is_new else 200, headers=headers, media_type="application/json")
