"""The web application: the API under /api, and the built pages for every other address."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import partial
from typing import Any

import orjson
from fastapi import FastAPI, Request
from fastapi.responses import Response

from bendro import __version__
from bendro.live import players
from bendro.settings import settings
from bendro.store.connect import hot_pool

from . import (
    access,
    building,
    errors,
    group_words,
    help,
    instruments,
    lesson,
    live,
    pages,
    planning,
    practice,
    running,
    school,
    screens,
    seats,
    seeing,
    showing,
    technical,
    templates,
    together,
    working_out,
)
from .constant import Constant
from .gate import Gate
from .shapes import Sorry


@asynccontextmanager
async def _life(_: FastAPI) -> AsyncIterator[None]:
    """The connections of the saves are opened with the first save and let go at the end; so is a made class that plays."""
    yield
    players.end()
    if not hot_pool().closed:
        await hot_pool().close()


def make_app() -> FastAPI:
    """The application. Reads settings once."""
    app = FastAPI(
        lifespan=_life,
        title="Bendro",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        responses={422: {"model": Sorry}, 401: {"model": Sorry}, 404: {"model": Sorry}, 409: {"model": Sorry}},
    )
    errors.install(app)
    app.openapi = partial(_document, app)  # type: ignore[method-assign]
    for part in (running, access, school, seats, screens, group_words, planning, templates, lesson, building, working_out, showing, together, practice, instruments, seeing, technical, help, live):  # the road of a save is found first
        app.include_router(part.router)

    app.add_middleware(Gate)

    document = Constant(lambda: orjson.dumps(app.openapi()))

    @app.get("/api/openapi.json", include_in_schema=False)
    def openapi(request: Request) -> Response:
        return document.answer(request)

    @app.get("/api/{rest:path}", include_in_schema=False)
    def no_such_call(rest: str) -> Response:
        return errors.problem(404, "no_such_call", f"There is nothing at /api/{rest[:60]}.")

    pages.serve(app, settings().web_dist)
    return app


def _document(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document: FastAPI's own, with refusals told as what they are, problem documents."""
    made = FastAPI.openapi(app)
    for methods in made["paths"].values():
        for call in methods.values():
            for status, answer in call["responses"].items():
                if status >= "4" and "application/json" in answer.get("content", {}):
                    answer["content"] = {"application/problem+json": answer["content"]["application/json"]}
    return made
