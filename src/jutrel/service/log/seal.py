"""Entries as their pen sealed them, and the site's word for a pen.

A seal is a JSON Web Signature in its compact form (RFC 7515) with ES256 (RFC 7518): anybody who has the pen's public
half can check it, with any library that knows the format. The private half never leaves the browser that made it.
"""

from __future__ import annotations

import json
from base64 import urlsafe_b64decode, urlsafe_b64encode
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.asymmetric.utils import decode_dss_signature, encode_dss_signature
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.serialization import (
    Encoding,
    NoEncryption,
    PrivateFormat,
    PublicFormat,
    load_der_public_key,
    load_pem_private_key,
)

from jutrel.core.errors import BadInput

LONGEST = 60_000
"""A seal that can be read [characters]; an entry has ten photos and two thousand letters at most."""
HALF = 32
"""A signature has two numbers of so many bytes each."""


@dataclass(frozen=True, slots=True)
class Sealed:
    """What stands in a seal: nothing of it is believed before it is checked. `pen`: whose key has to fit."""

    pen: str
    says: Mapping[str, Any]


def _bytes(text: str) -> bytes:
    return urlsafe_b64decode(text + "=" * (-len(text) % 4))


def _text(data: bytes) -> str:
    return urlsafe_b64encode(data).rstrip(b"=").decode()


def _read(part: str) -> Any:
    """JSON within a seal; raises ValueError for what no database can keep: a number that is none, half a letter."""
    found = json.loads(_bytes(part))
    json.dumps(found, ensure_ascii=False, allow_nan=False).encode()
    return found


def opened(seal: str, longest: int = LONGEST) -> Sealed:
    """What stands in a seal; raises BadInput where it is none."""
    if len(seal) > longest:
        raise BadInput("seal", "is too long")
    try:
        head, says, _ = seal.split(".")
        header, payload = _read(head), _read(says)
    except (ValueError, RecursionError):
        raise BadInput("seal", "is no signed entry: three parts with dots between") from None
    pen = header.get("kid") if isinstance(header, dict) and header.get("alg") == "ES256" else None
    if not isinstance(pen, str) or not (pen.isascii() and pen.isprintable()):
        raise BadInput("seal", "its head names ES256 and the pen, as `alg` and `kid`")
    if not isinstance(payload, dict) or "seal" in payload:
        raise BadInput("seal", "what is signed is an entry")
    return Sealed(pen, payload)


def read_key(key: str) -> ec.EllipticCurvePublicKey:
    """A pen's public half from its form on the wire (SPKI, base64url); raises BadInput for anything but P-256."""
    try:
        found = load_der_public_key(_bytes(key))
    except ValueError:
        found = None
    if not isinstance(found, ec.EllipticCurvePublicKey) or not isinstance(found.curve, ec.SECP256R1):
        raise BadInput("key", "give a public key of the curve P-256, as SPKI in base64url")
    return found


def holds(seal: str, key: str) -> bool:
    """Whether a seal is of the pen with this public half, and unchanged."""
    signed, _, signature = seal.rpartition(".")
    try:
        raw = _bytes(signature)
        if len(raw) != 2 * HALF:
            return False
        r, s = int.from_bytes(raw[:HALF], "big"), int.from_bytes(raw[HALF:], "big")
        read_key(key).verify(encode_dss_signature(r, s), signed.encode(), ec.ECDSA(SHA256()))
    except (InvalidSignature, ValueError):
        return False
    return True


def new_site_key() -> tuple[str, str]:
    """A key pair for a site: the private half as PEM, the public half as it goes over the wire."""
    private = ec.generate_private_key(ec.SECP256R1())
    pem = private.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption()).decode()
    return pem, _text(private.public_key().public_bytes(Encoding.DER, PublicFormat.SubjectPublicKeyInfo))


def sealed(pem: str, kid: str, says: Mapping[str, Any]) -> str:
    """Something sealed with a private key."""
    private = load_pem_private_key(pem.encode(), None)
    assert isinstance(private, ec.EllipticCurvePrivateKey)
    header = json.dumps({"alg": "ES256", "kid": kid}, separators=(",", ":")).encode()
    signed = f"{_text(header)}.{_text(json.dumps(says, separators=(',', ':'), ensure_ascii=False).encode())}"
    r, s = decode_dss_signature(private.sign(signed.encode(), ec.ECDSA(SHA256())))
    return f"{signed}.{_text(r.to_bytes(HALF, 'big') + s.to_bytes(HALF, 'big'))}"
