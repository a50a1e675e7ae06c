"""https: an authority and a certificate of this machine's own, renewed by themselves, or the school's own certificate looked at before it is used.

Sizes and times are those that browsers ask of certificates (RFC 5280 for the form; at most 398 days for a server: common practice)."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from pathlib import Path
from typing import TypeVar

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from bendro.files.authority import fingerprint_of

T = TypeVar("T")
AUTHORITY_DAYS, SERVER_DAYS = 3650, 397
#: A certificate is renewed when so many days are left, and an authority when it could not sign one any more.
RENEW_DAYS = 30
#: A clock of a tablet may be so far behind.
BEHIND = timedelta(days=2)


class CertificateTrouble(RuntimeError):
    """What is wrong with a certificate, and what to do."""


def own(folder: Path, names: Sequence[str], *, now: datetime) -> tuple[Path, Path, Path]:
    """The files of the certificate for these names and numbers, of its key, and of the authority that tablets trust. Made where there is none,
    where it runs out soon, or where a name is not in it. Raises OSError."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    authority, authority_key = _authority(folder, now)
    certificate, key = folder / "server.pem", folder / "server-key.pem"
    if not (certificate.exists() and key.exists() and _holds(certificate, authority, names, now)):
        made_key = ec.generate_private_key(ec.SECP256R1())
        alternative = x509.SubjectAlternativeName([_as_name(n) for n in names])
        made = (
            x509.CertificateBuilder()
            .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Bendro")]))
            .issuer_name(authority.subject)
            .public_key(made_key.public_key())
            .serial_number(x509.random_serial_number())
            .not_valid_before(now - BEHIND)
            .not_valid_after(now - BEHIND + timedelta(days=SERVER_DAYS))
            .add_extension(alternative, critical=False)
            .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
            .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
            .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(authority_key.public_key()), critical=False)
            .sign(authority_key, hashes.SHA256())
        )
        _write(key, _as_pem(made_key))
        _write(certificate, made.public_bytes(serialization.Encoding.PEM) + authority.public_bytes(serialization.Encoding.PEM))
    return certificate, key, folder / "authority.pem"


def _authority(folder: Path, now: datetime) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    file, key_file = folder / "authority.pem", folder / "authority-key.pem"
    if file.exists() and key_file.exists():
        found = x509.load_pem_x509_certificate(file.read_bytes())
        key = serialization.load_pem_private_key(key_file.read_bytes(), None)
        if found.not_valid_after_utc - now > timedelta(days=SERVER_DAYS) and isinstance(key, ec.EllipticCurvePrivateKey):
            return found, key
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Bendro on {os.uname().nodename}"[:60])])
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - BEHIND)
        .not_valid_after(now + timedelta(days=AUTHORITY_DAYS))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(
            x509.KeyUsage(
                digital_signature=False, content_commitment=False, key_encipherment=False, data_encipherment=False, key_agreement=False,
                key_cert_sign=True, crl_sign=True, encipher_only=False, decipher_only=False,
            ),
            critical=True,
        )
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
        .sign(key, hashes.SHA256())
    )  # fmt: skip
    _write(key_file, _as_pem(key))
    _write(file, made.public_bytes(serialization.Encoding.PEM))
    return made, key


def _holds(file: Path, authority: x509.Certificate, names: Sequence[str], now: datetime) -> bool:
    found = x509.load_pem_x509_certificate(file.read_bytes())
    try:
        found.verify_directly_issued_by(authority)
    except Exception:  # of another authority, in whatever way
        return False
    alternative = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return set(alternative) >= {_as_name(n) for n in names} and found.not_valid_after_utc - now > timedelta(days=RENEW_DAYS)


def _as_name(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _as_pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())


def _write(file: Path, content: bytes) -> None:
    """Whole or not at all, and read by nobody else."""
    making = file.with_suffix(".making")
    making.touch(0o600)
    making.write_bytes(content)
    making.replace(file)


def given(certificate: Path, key: Path, *, now: datetime) -> list[str]:
    """The names in the school's own certificate, after it was looked at. Raises CertificateTrouble with a sentence."""
    chain = _read(certificate, "certificate", x509.load_pem_x509_certificates)
    private = _read(key, "key", lambda content: serialization.load_pem_private_key(content, None))
    first = chain[0]
    if first.not_valid_after_utc <= now:
        raise CertificateTrouble(f"The certificate in {certificate.name} ran out on {_day(first.not_valid_after_utc)}. Give the renewed one.")
    if first.not_valid_before_utc > now:
        raise CertificateTrouble(f"The certificate in {certificate.name} holds only from {_day(first.not_valid_before_utc)} on. Look at the date of this machine ({_day(now)}).")
    form = (serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo)
    if private.public_key().public_bytes(*form) != first.public_key().public_bytes(*form):
        raise CertificateTrouble(f"The key in {key.name} is not that of the certificate in {certificate.name}. Give the two that belong together; the server’s own certificate comes first in its file.")
    try:
        alternative = first.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except x509.ExtensionNotFound as why:
        raise CertificateTrouble(f"The certificate in {certificate.name} names no server, so no browser would take it. Ask for one with the name under which Bendro is opened.") from why
    return [*alternative.get_values_for_type(x509.DNSName), *(str(n) for n in alternative.get_values_for_type(x509.IPAddress))]


def _read(file: Path, what: str, load: Callable[[bytes], T]) -> T:
    try:
        return load(file.read_bytes())
    except OSError as why:
        raise CertificateTrouble(f"The {what} {file} cannot be read: {why.strerror}.") from why
    except TypeError as why:
        raise CertificateTrouble(f"The {what} in {file.name} is locked by a password, so Bendro could not start by itself. Give it without one, readable by Bendro alone.") from why
    except ValueError as why:
        raise CertificateTrouble(f"{file.name} is no {what} in PEM form (-----BEGIN …). Give the file that the school’s authority sent, in that form.") from why


def fingerprint(file: Path) -> str:
    """Of the authority in a file, as the terminal shows it and `/trust` does."""
    return fingerprint_of(x509.load_pem_x509_certificate(file.read_bytes()))


def _day(at: datetime) -> str:
    return f"{at.astimezone(UTC):%-d %B %Y}"
