"""The bare reference for saving: a FastAPI route that does one SELECT and one INSERT through a few asynchronous connections, served by
uvicorn in a process of its own. `python -m bench.bare_route URL PORT`."""

from __future__ import annotations

import asyncio
import sys
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any
from uuid import UUID

import psycopg
import uvicorn
from fastapi import FastAPI, Request

CONNECTIONS = 8


def make(url: str) -> FastAPI:
    free: asyncio.Queue[psycopg.AsyncConnection[Any]] = asyncio.Queue()

    @asynccontextmanager
    async def life(_: FastAPI) -> AsyncIterator[None]:
        for _i in range(CONNECTIONS):
            free.put_nowait(await psycopg.AsyncConnection.connect(url))
        yield

    app = FastAPI(lifespan=life)

    @app.put("/{key}/{trial}")
    async def put(key: UUID, trial: UUID, request: Request) -> dict[str, str]:
        body = await request.body()
        connection = await free.get()
        try:
            await (await connection.execute("select title from study where id = %s", (key,))).fetchone()
            await connection.execute("insert into bare values (%s, 'level', %s)", (trial, body.decode()))
            await connection.commit()
        finally:
            free.put_nowait(connection)
        return {"kept": str(trial)}

    return app


if __name__ == "__main__":
    uvicorn.run(make(sys.argv[1]), port=int(sys.argv[2]), log_level="warning", access_log=False)
