"""For whoever looks after Bendro: whether it lives and is ready, figures for a monitor, and how tablets come to trust its certificate."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import serialization
from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from sqlalchemy import text
from sqlalchemy.exc import OperationalError, TimeoutError

from bendro.files.authority import fingerprint_of
from bendro.settings import settings
from bendro.store.connect import session as open_session
from bendro.store.errors import NotFound

from .addresses import at_this_machine, for_tablets, picture
from .errors import disk_is_full
from .figures import CONTENT_TYPE, told
from .shapes import HereOut, TrustOut

router = APIRouter(tags=["technical"])


@router.get("/healthz", include_in_schema=False)
async def healthz() -> Response:
    """The process lives."""
    return Response("It lives.\n", media_type="text/plain")


@router.get("/readyz", include_in_schema=False)
async def readyz() -> Response:
    """The database takes writes, and there is room."""
    wrong = await run_in_threadpool(_not_ready)
    return Response(f"{wrong or 'It is ready.'}\n", status_code=503 if wrong else 200, media_type="text/plain; charset=utf-8")


def _not_ready() -> str:
    if disk_is_full():
        return "The disk is full."
    try:
        with open_session() as session:
            read_only = session.connection().execute(text("select pg_is_in_recovery() or current_setting('transaction_read_only') = 'on'")).scalar()
    except (OperationalError, TimeoutError):
        return "The database does not answer."
    return "The database takes no writes." if read_only else ""


@router.get("/metrics", include_in_schema=False)
async def metrics(request: Request) -> Response:
    """Figures, for this machine and the monitors that were named."""
    monitors = {a.strip() for a in settings().monitors.split(",")} - {""}
    if not at_this_machine(request) and (request.client is None or request.client.host not in monitors):
        return Response("Figures are for this machine and for monitors that were named (BENDRO_MONITORS).\n", status_code=403, media_type="text/plain")
    wrong = await run_in_threadpool(_not_ready)
    return Response(told(not wrong.startswith("The database")), media_type=CONTENT_TYPE)


@router.get("/api/here", operation_id="here")
def here(request: Request) -> HereOut:
    """How tablets reach this machine, told only to whoever sits at it; nothing where nobody else gets in."""
    found = for_tablets() if at_this_machine(request) else []
    size, d = picture(found[0]) if found else (0, "")
    return HereOut(addresses=found, picture_size=size, picture=d, trust=bool(settings().trust_at))


@router.get("/api/trust", operation_id="trust")
def trust() -> TrustOut:
    """The authority of this machine, which a tablet trusts once. Raises NotFound where the school’s own certificate is used, or none."""
    made = x509.load_pem_x509_certificate(_authority())
    name = made.subject.rfc4514_string().removeprefix("CN=")
    return TrustOut(name=name, fingerprint=fingerprint_of(made), until=made.not_valid_after_utc, today=datetime.now(UTC))


@router.get("/api/trust/authority.crt", include_in_schema=False)
def authority() -> Response:
    """The same as a file that a tablet takes in."""
    made = x509.load_pem_x509_certificate(_authority()).public_bytes(serialization.Encoding.DER)
    return Response(made, media_type="application/x-x509-ca-cert", headers={"Content-Disposition": 'attachment; filename="bendro-authority.crt"'})


def _authority() -> bytes:
    if not settings().trust_at:
        raise NotFound("authority")
    return Path(settings().trust_at).read_bytes()
