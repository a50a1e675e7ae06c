"""https: this machine’s own authority, checked by OpenSSL, and the school’s own certificate looked at before it is used."""

from __future__ import annotations

import asyncio
import hashlib
import json
import re
import socket
import ssl
import threading
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import httpx
import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID
from websockets.sync.client import connect
from zeroconf import IPVersion, Zeroconf

from bendro.server import working
from bendro.server.announcing import announced
from bendro.server.certificates import RENEW_DAYS, SERVER_DAYS, CertificateTrouble, fingerprint, given, own
from bendro.server.working import Place
from tests.conftest import Application, free_port, new_study, sign_up
from tests.forked import starter

pytestmark = pytest.mark.api
NOW = datetime(2027, 1, 10, 9, tzinfo=UTC)


@pytest.fixture
def secure(own_app: Callable[..., Application]) -> tuple[Application, str, ssl.SSLContext]:
    """An application over https: it, its address, and what trusts its authority and nothing else."""
    port = free_port()
    app = own_app("--no-demo", "--https", "--https-port", str(port))
    trusts = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    trusts.load_verify_locations(app.folder / "https" / "authority.pem")
    return app, f"https://localhost:{port}", trusts


def test_https_is_trusted_by_whoever_trusts_this_machine_and_http_stays_here(secure: tuple[Application, str, ssl.SSLContext]) -> None:
    app, address, trusts = secure
    with httpx.Client(base_url=address, verify=trusts, timeout=30) as client:
        page = client.get("/")
        assert page.headers["strict-transport-security"] == "max-age=31536000"
        told = client.get("/api/trust").json()
        file = client.get("/api/trust/authority.crt")
        assert file.headers["content-type"] == "application/x-x509-ca-cert"
        assert told["fingerprint"].replace(" ", "") == hashlib.sha256(file.content).hexdigest().upper()
        assert told["fingerprint"] in app.told()
        teacher = sign_up(app)
        answer = client.post("/api/session", json={"sign_in_name": teacher.name, "password": "a long enough password"})
        assert all("; Secure" in c for c in answer.headers.get_list("set-cookie"))
        study = new_study(teacher)
        cookies = "; ".join(f"{c.name}={c.value}" for c in client.cookies.jar)
        with connect(f"{address.replace('https', 'wss')}/api/studies/{study['id']}/live", ssl=trusts, additional_headers={"Cookie": cookies}) as stream:
            assert json.loads(stream.recv(timeout=20))["kind"] == "newest"
    with pytest.raises(httpx.ConnectError, match="CERTIFICATE_VERIFY_FAILED"):
        httpx.get(address, verify=ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT))
    here = httpx.get(f"{app.url}/api/here")
    assert "strict-transport-security" not in here.headers
    assert all(a.startswith("https://") for a in here.json()["addresses"])
    assert here.json()["trust"] is True
    plain = httpx.post(f"{app.url}/api/session", json={"sign_in_name": teacher.name, "password": "a long enough password"})
    assert not any("Secure" in c for c in plain.headers.get_list("set-cookie"))
    for number in re.findall(r"https://([0-9.]+):", app.told()):  # in the network, where this machine has one, there is no http
        with pytest.raises(OSError, match=r"refused|timed out"):
            socket.create_connection((number, app.port), timeout=3)


def names_in(file: Path) -> set[str]:
    alternative = x509.load_pem_x509_certificate(file.read_bytes()).extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return {*alternative.get_values_for_type(x509.DNSName), *map(str, alternative.get_values_for_type(x509.IPAddress))}


def test_our_own_certificate_renews_itself_and_the_authority_stays(tmp_path: Path) -> None:
    certificate, key, authority = own(tmp_path, ["localhost", "10.0.0.7"], now=NOW)
    assert names_in(certificate) == {"localhost", "10.0.0.7"}
    before, trusted = certificate.read_bytes(), authority.read_bytes()
    assert {f.stat().st_mode & 0o077 for f in tmp_path.iterdir()} == {0}
    own(tmp_path, ["localhost"], now=NOW + timedelta(days=SERVER_DAYS - RENEW_DAYS - 4))
    assert certificate.read_bytes() == before
    own(tmp_path, ["localhost"], now=NOW + timedelta(days=SERVER_DAYS - RENEW_DAYS))
    renewed = certificate.read_bytes()
    assert renewed != before
    own(tmp_path, ["localhost", "bendro.local"], now=NOW + timedelta(days=SERVER_DAYS))
    assert names_in(certificate) == {"localhost", "bendro.local"}
    assert authority.read_bytes() == trusted  # tablets trust it on
    lasts = x509.load_pem_x509_certificate(certificate.read_bytes())
    assert (lasts.not_valid_after_utc - lasts.not_valid_before_utc).days <= 398  # common practice: browsers take no longer ones
    given(certificate, key, now=NOW + timedelta(days=SERVER_DAYS))
    own(tmp_path, ["localhost"], now=NOW + timedelta(days=3650 - SERVER_DAYS))
    assert authority.read_bytes() != trusted


def made(folder: Path, *, names: tuple[str, ...] = ("bendro.school.example",), days: tuple[int, int] = (-1, 90), password: bytes | None = None) -> tuple[Path, Path]:
    """A certificate as a school’s authority might send it."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Reedbank")])
    builder = x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key()).serial_number(1)
    builder = builder.not_valid_before(NOW + timedelta(days=days[0])).not_valid_after(NOW + timedelta(days=days[1]))
    if names:
        builder = builder.add_extension(x509.SubjectAlternativeName([x509.DNSName(n) for n in names]), critical=False)
    files = folder / f"{len(list(folder.iterdir()))}.pem", folder / f"{len(list(folder.iterdir()))}-key.pem"
    files[0].write_bytes(builder.sign(key, hashes.SHA256()).public_bytes(serialization.Encoding.PEM))
    locked = serialization.BestAvailableEncryption(password) if password else serialization.NoEncryption()
    files[1].write_bytes(key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, locked))
    return files


def test_a_schools_certificate_that_does_not_serve_is_told_with_what_to_do(tmp_path: Path) -> None:
    certificate, key = made(tmp_path)
    assert given(certificate, key, now=NOW) == ["bendro.school.example"]
    _, other_key = made(tmp_path)
    junk = tmp_path / "junk.pem"
    junk.write_text("not a certificate")
    for files, says in {
        (certificate, other_key): "is not that of the certificate in",
        made(tmp_path, days=(-90, -2)): "ran out on 8 January 2027. Give the renewed one",
        made(tmp_path, days=(3, 90)): "holds only from 13 January 2027 on. Look at the date of this machine (10 January 2027)",
        made(tmp_path, password=b"locked"): "is locked by a password",
        made(tmp_path, names=()): "names no server",
        (junk, key): "junk.pem is no certificate in PEM form",
        (certificate, junk): "junk.pem is no key in PEM form",
        (tmp_path / "gone.pem", key): "cannot be read: No such file",
    }.items():
        with pytest.raises(CertificateTrouble, match=re.escape(says)):
            given(*files, now=NOW)
    for options, says in {
        ("--certificate", str(certificate), "--key", str(other_key)): "",
        ("--certificate", str(certificate)): "A certificate and its key are given together",
        ("--key", str(junk), "--certificate", str(junk)): "junk.pem is no certificate",
        ("--local-name", "two words"): "“two words” is no name of a machine. Give letters, digits and hyphens: --local-name bendro",
        ("--name", "https://bendro.school.example"): "is no name of a machine. Give letters, digits and hyphens with points between, without https://",
        ("--processes", "none"): "“none” is no number of processes. Give 1 to 64, or auto",
        ("--processes", "0"): "is no number of processes",
    }.items():
        done = starter.run("start", [*options, "--port", str(free_port()), "--data", str(tmp_path / "data")])
        assert (done.returncode, says in done.stderr, "Traceback" in done.stderr) == (1, True, False), done.stderr


def test_a_renewed_certificate_is_taken_up_without_a_restart(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A client that trusts only the new one gets through once it is looked at again."""
    monkeypatch.setattr(working, "LOOK_S", 0.05)
    now = datetime.now(UTC)
    certificate, key, _ = own(tmp_path / "one", ["localhost"], now=now)
    serving = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    serving.load_cert_chain(certificate, key)
    listening = socket.create_server(("127.0.0.1", 0))
    place = Place(listening, (certificate, key))

    def trusted(authority: Path) -> bool:
        trusts = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
        trusts.load_verify_locations(authority)
        thread = threading.Thread(target=_shake, args=(listening, serving))
        thread.start()
        try:
            with socket.create_connection(listening.getsockname()) as plain, trusts.wrap_socket(plain, server_hostname="localhost"):
                return True
        except ssl.SSLCertVerificationError:
            return False
        finally:
            thread.join()

    new = own(tmp_path / "two", ["localhost"], now=now)
    assert (trusted(tmp_path / "one" / "authority.pem"), trusted(new[2])) == (True, False)

    async def renew() -> None:
        server: Any = SimpleNamespace(config=SimpleNamespace(ssl=serving))
        looking = asyncio.create_task(working._renewed([server], [place]))
        await asyncio.sleep(0.1)
        certificate.write_bytes(b"half written")
        await asyncio.sleep(0.2)
        key.write_bytes(new[1].read_bytes())
        certificate.write_bytes(new[0].read_bytes())
        for _ in range(100):
            await asyncio.sleep(0.05)
            if await asyncio.to_thread(trusted, new[2]):
                break
        else:
            pytest.fail("the new certificate was never taken up")
        looking.cancel()

    asyncio.run(renew())
    listening.close()


def _shake(listening: socket.socket, serving: ssl.SSLContext) -> None:
    plain, _ = listening.accept()
    try:
        serving.wrap_socket(plain, server_side=True).close()
    except (ssl.SSLError, ConnectionError):
        plain.close()


def test_the_name_in_the_local_network_is_answered_and_given_up() -> None:
    name = f"bendro-{free_port()}"
    with announced(name, ["127.0.0.1"], 8714, secure=True), Zeroconf(interfaces=["127.0.0.1"], ip_version=IPVersion.V4Only) as asking:
        found = asking.get_service_info("_https._tcp.local.", f"Bendro {name}._https._tcp.local.", timeout=8000)
        assert found is not None
        assert (found.server, found.port, found.parsed_addresses()) == (f"{name}.local.", 8714, ["127.0.0.1"])


def test_where_the_network_does_not_carry_names_it_is_said_and_pages_are_served(capsys: pytest.CaptureFixture[str]) -> None:
    with announced("bendro", ["203.0.113.9"], 8714, secure=True):  # a number that this machine does not have
        assert "The name bendro.local cannot be told in this network" in capsys.readouterr().err


def test_the_fingerprint_is_written_in_fours(tmp_path: Path) -> None:
    authority = own(tmp_path, ["localhost"], now=NOW)[2]
    assert re.fullmatch(r"([0-9A-F]{4} ){15}[0-9A-F]{4}", fingerprint(authority))
