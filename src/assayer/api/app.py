"""The application: routes, guards, the built front end."""

from __future__ import annotations

from importlib import import_module
from importlib.resources import files
from pathlib import Path
from threading import Lock
from typing import Any
from urllib.parse import SplitResult, urlsplit

from fastapi import APIRouter, FastAPI, Request
from fastapi.responses import HTMLResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

import assayer
from assayer.api import routes_day, routes_people
from assayer.api.description import describe_once, methods_at
from assayer.api.problems import TITLES, TOO_LARGE, Problem, answer, install
from assayer.services.safekeeping.jobs import Jobs
from assayer.services.unit import Workspace

_FIRST = ("/api/day", "/api/people", "/api/health")
"""What the first page asks: it is answered before the other areas are loaded, which takes as long as a quarter of a start."""

_REST = ("bench", "choose", "dial_in", "findings", "gcode", "own_methods", "parts", "photos", "printing", "rigs", "safekeeping", "sessions", "stock", "studies")

LOOPBACK = {"127.0.0.1", "localhost", "::1"}
_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)
_HEADERS = [
    (b"content-security-policy", _POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
]


class Guard:
    """Refuses foreign hosts and origins, and adds the security headers.

    A page of another site could otherwise reach a server on loopback through the user's browser.
    """

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = {name: value.decode("latin-1") for name, value in scope["headers"] if name in (b"host", b"origin")}
        cut_short = False

        async def send_with_headers(message: Message) -> None:
            nonlocal cut_short
            if cut_short:
                return
            if message["type"] == "http.response.start":
                if message["status"] == 413 and (b"content-type", b"application/problem+json") not in message["headers"]:
                    # refused before any route was asked: in the form of all refusals all the same
                    cut_short = True
                    start, body = _too_large()
                    await send(start)
                    await send(body)
                    return
                message["headers"] = [*message["headers"], *_HEADERS]
            await send(message)

        refused = self._refusal(scope["method"], headers)
        await (refused or self.app)(scope, receive, send_with_headers)

    def _refusal(self, method: str, headers: dict[bytes, str]) -> JSONResponse | None:
        host = headers.get(b"host", "")
        parts = _split(f"//{host}")
        if parts is None or parts.hostname not in LOOPBACK:
            return answer(Problem(title="Not allowed", status=403, detail=f"'{host}' is not a name of this server: open it as 127.0.0.1"))
        origin = headers.get(b"origin")
        if origin is not None and method not in ("GET", "HEAD", "OPTIONS") and ((own := _split(origin)) is None or own.netloc != host):
            return answer(Problem(title="Not allowed", status=403, detail="changes are only taken from Assayer's own pages"))
        return None


def _split(url: str) -> SplitResult | None:
    """The parts of an address; None where it is none."""
    try:
        parts = urlsplit(url)
        _ = parts.port, parts.hostname
    except ValueError:
        return None
    return parts


def _too_large() -> tuple[Message, Message]:
    response = answer(Problem(title=TITLES[413], status=413, detail=TOO_LARGE))
    start = {"type": "http.response.start", "status": 413, "headers": [*response.raw_headers, *_HEADERS]}
    return start, {"type": "http.response.body", "body": response.body}


class FrontEnd(StaticFiles):
    """The built pages; an unknown path is a page of the application, unless it looks like a file."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        try:
            response = await super().get_response(path, scope)
        except HTTPException as error:
            is_page = error.status_code == 404 and not path.startswith(("api/", "assets/")) and "." not in path.rsplit("/", 1)[-1]
            if not is_page:
                raise
            response = await super().get_response("index.html", scope)
        if path.startswith("assets/"):
            response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        else:
            response.headers["Cache-Control"] = "no-cache"
        return response


def front_end_folder() -> Path:
    return Path(str(files("assayer"))) / "webdist"


class Described(FastAPI):
    """An application whose description says each problem once, and whose areas are loaded when somebody first asks for more than the first page."""

    def __init__(self, **told: Any) -> None:
        super().__init__(**told)
        self.areas: list[APIRouter] = []
        self._whole = False
        self._loading = Lock()

    def load_rest(self) -> None:
        """Load the areas that the first page does without; once they are, nothing happens."""
        with self._loading:
            if not self._whole:
                self.take_in(*(import_module(f"assayer.api.routes_{area}").router for area in _REST))
                self._whole = True

    def take_in(self, *areas: APIRouter) -> None:
        """Put these areas' routes after those that are there already, and before what catches all that is left.

        Included as routers, each route would be worked out a second time while somebody waits for the first that is asked,
        and asking them all, as every request does, would cost several times as much.
        """
        at = sum(len(area.routes) for area in self.areas)
        self.router.routes = [*self.router.routes[:at], *(route for area in areas for route in area.routes), *self.router.routes[at:]]
        self.areas.extend(areas)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if not self._whole and scope["type"] == "http" and scope["path"].startswith("/api/") and not scope["path"].startswith(_FIRST):
            self.load_rest()
        await super().__call__(scope, receive, send)

    def build_middleware_stack(self) -> ASGIApp:
        # around everything: what is refused for its size before it is read has the headers too
        return Guard(super().build_middleware_stack())

    def openapi(self) -> dict[str, object]:
        self.load_rest()
        with self._loading:
            if self.openapi_schema is None:
                describe_once(super().openapi())
            return super().openapi()


def create_app(workspace: Workspace | None = None) -> Described:
    """The application over a workspace; without one it only describes itself (OpenAPI)."""
    app = Described(
        title="Assayer",
        version=assayer.__version__,
        description="From recorded pulls to verdicts and a ranking that can be defended.",
        openapi_url=None,
        docs_url=None,
        redoc_url=None,
        max_body_size=2_000_000,
        generate_unique_id_function=lambda route: route.name,
    )
    app.state.workspace = workspace
    app.state.jobs = None if workspace is None else Jobs(workspace)
    app.state.inspections = None
    install(app)
    app.take_in(routes_day.router, routes_people.router)

    @app.get("/api/health", include_in_schema=False)
    async def health() -> dict[str, str]:
        return {"status": "ok", "version": assayer.__version__}

    # describing everything takes seconds: in a thread of its own, or nobody would be answered meanwhile
    @app.get("/api/openapi.json", include_in_schema=False)
    def description() -> JSONResponse:
        return JSONResponse(app.openapi())

    @app.get("/api/docs", include_in_schema=False)
    async def docs() -> HTMLResponse:
        # its parts are served from here: the page works without a network
        return HTMLResponse(
            '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Assayer API</title>'
            '<link rel="stylesheet" href="/docs/swagger-ui.css"></head><body><div id="swagger-ui"></div>'
            '<script src="/docs/swagger-ui-bundle.js"></script><script src="/docs/start.js"></script></body></html>'
        )

    @app.api_route("/api/{rest:path}", methods=["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"], include_in_schema=False)
    async def unknown(rest: str, request: Request) -> Any:
        allowed = methods_at(app.areas, request.url.path)
        if not allowed:
            raise HTTPException(404, f"there is nothing at /api/{rest[:80]}")
        headers = {"Allow": ", ".join(sorted({*allowed, "OPTIONS"}))}
        if request.method == "OPTIONS":
            return Response(status_code=204, headers=headers)
        raise HTTPException(405, f"{request.method} is not done at /api/{rest[:80]}: {headers['Allow']}", headers)

    folder = front_end_folder()
    if folder.is_dir():
        # only the pages: on loopback, compressing what the API answers costs more than it saves
        app.mount("/", GZipMiddleware(FrontEnd(directory=folder, html=True), minimum_size=4000, compresslevel=3))
    return app
