"""The web application: the API under /api, and the built pages for every other address."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import urlparse

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.middleware.base import RequestResponseEndpoint

from bendro import __version__
from bendro.settings import settings

from . import access, building, errors, lesson, planning, running, working_out
from .shapes import Sorry

_PAGE_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


def make_app() -> FastAPI:
    """The application. Reads settings once."""
    app = FastAPI(
        title="Bendro",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses={422: {"model": Sorry}, 401: {"model": Sorry}, 404: {"model": Sorry}, 409: {"model": Sorry}},
    )
    errors.install(app)
    for part in (access, planning, lesson, building, running, working_out):
        app.include_router(part.router)

    @app.middleware("http")
    async def guard(request: Request, call_next: RequestResponseEndpoint) -> Response:
        """Refuses what is too large or comes from another page; sets the headers that every answer carries."""
        length = request.headers.get("content-length", "0")
        most = settings().most_photo_bytes if request.url.path.endswith("/photo") else settings().most_body_bytes
        if not length.isdigit() or int(length) > most:
            return errors.problem(
                413,
                "too_large",
                f"That is {int(length) / 1e6:.0f} MB; at most {most / 1e6:.0f} MB can be read. Send a smaller file."
                if length.isdigit()
                else "The length of the message is not a number.",
            )
        if "transfer-encoding" in request.headers and request.method in ("POST", "PUT", "PATCH"):
            return errors.problem(413, "length_unknown", "The message does not say how long it is.")
        origin = request.headers.get("origin")
        if request.method not in ("GET", "HEAD") and origin and urlparse(origin).netloc != request.headers.get("host"):
            return errors.problem(403, "other_origin", "This came from a page that is not Bendro's.")
        response = await call_next(request)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers.setdefault("Content-Security-Policy", _PAGE_POLICY)
        if request.url.path.startswith("/api"):
            response.headers["Cache-Control"] = "no-store"
        return response

    @app.get("/api/{rest:path}", include_in_schema=False)
    def no_such_call(rest: str) -> Response:
        return errors.problem(404, "no_such_call", f"There is nothing at /api/{rest[:60]}.")

    _pages(app, settings().web_dist)
    return app


def _pages(app: FastAPI, dist: Path) -> None:
    if not (dist / "index.html").exists():
        return
    app.mount("/assets", StaticFiles(directory=dist / "assets"), name="assets")
    plain = {p.name: p for p in dist.iterdir() if p.is_file() and not p.name.startswith(".")}

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        file = plain.get(path, dist / "index.html")
        fresh = "no-cache" if file.suffix in (".html", ".js", ".webmanifest") else "public, max-age=3600"
        return FileResponse(file, headers={"Cache-Control": fresh})
