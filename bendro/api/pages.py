"""The built pages: each file as it was compressed when it was built, in the form that the browser takes."""

from __future__ import annotations

import mimetypes
from pathlib import Path

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, Response

#: Forms in which a built file lies beside the plain one, the smallest first.
FORMS = {"br": ".br", "gzip": ".gz"}
FOR_A_YEAR = "public, max-age=31536000, immutable"  # an asset's name changes with its contents
mimetypes.add_type("application/manifest+json", ".webmanifest")
mimetypes.add_type("font/woff2", ".woff2")


def serve(app: FastAPI, dist: Path) -> None:
    """Serve the built pages under every address that is not the API's; nothing where there are none."""
    if not (dist / "index.html").exists():
        return
    files = {str(p.relative_to(dist)): p for p in dist.rglob("*") if p.is_file() and p.suffix not in FORMS.values() and not p.name.startswith(".")}
    index = dist / "index.html"

    @app.get("/{path:path}", include_in_schema=False)
    async def page(path: str, request: Request) -> Response:
        if path.startswith("assets/") and path not in files:
            return Response("Not found", status_code=404)
        file = files.get(path, index)
        if path.startswith("assets/"):
            fresh = FOR_A_YEAR
        else:
            fresh = "no-cache" if file.suffix in (".html", ".js", ".webmanifest") else "public, max-age=3600"
        return _answer(file, request.headers.get("accept-encoding", ""), fresh)


def _answer(file: Path, taken: str, fresh: str) -> Response:
    headers = {"Cache-Control": fresh, "Vary": "Accept-Encoding"}
    kind = mimetypes.guess_type(file.name)[0] or "application/octet-stream"
    offered = {form.partition(";")[0].strip() for form in taken.split(",") if not form.replace(" ", "").endswith(";q=0")}
    for form, ending in FORMS.items():
        small = file.with_name(file.name + ending)
        if form in offered and small.exists():
            return FileResponse(small, media_type=kind, headers={**headers, "Content-Encoding": form})
    return FileResponse(file, media_type=kind, headers=headers)
