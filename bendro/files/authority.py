"""What is told of the authority whose certificate tablets trust."""

from __future__ import annotations

from cryptography import x509
from cryptography.hazmat.primitives import hashes


def fingerprint_of(made: x509.Certificate) -> str:
    """By which somebody sees that a tablet got this very certificate: SHA-256, in fours."""
    digest = made.fingerprint(hashes.SHA256()).hex().upper()
    return " ".join(digest[n : n + 4] for n in range(0, len(digest), 4))
