"""A device that makes passkeys and signs with them, for tests: an ES256 key, user verification said, no attestation."""

import hashlib
import json
import secrets
from base64 import urlsafe_b64decode, urlsafe_b64encode
from dataclasses import dataclass, field

import cbor2
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec

PRESENT, VERIFIED, NEW_KEY = 0x01, 0x04, 0x40


def as_text(raw: bytes) -> str:
    """Bytes as browsers send them."""
    return urlsafe_b64encode(raw).rstrip(b"=").decode()


def as_bytes(text: str) -> bytes:
    """And back."""
    return urlsafe_b64decode(text + "=" * (-len(text) % 4))


@dataclass
class Authenticator:
    """One device with one key."""

    origin: str = "http://localhost"
    flags: int = PRESENT | VERIFIED
    count: int = 0
    key_id: bytes = field(default_factory=lambda: secrets.token_bytes(32))
    key: ec.EllipticCurvePrivateKey = field(default_factory=lambda: ec.generate_private_key(ec.SECP256R1()))

    def make(self, question: str) -> str:
        """Answer what was asked for a new key, as JSON."""
        asked = json.loads(question)
        told = self._told(asked["rp"]["id"], self.flags | NEW_KEY)
        told += bytes(16) + len(self.key_id).to_bytes(2, "big") + self.key_id + self._public()
        attested = cbor2.dumps({"fmt": "none", "attStmt": {}, "authData": told})
        client = self._client("webauthn.create", asked["challenge"])
        return self._answer({"clientDataJSON": as_text(client), "attestationObject": as_text(attested)})

    def sign(self, question: str) -> str:
        """Answer what was asked at the door, as JSON."""
        asked = json.loads(question)
        self.count += 1
        told, client = self._told(asked["rpId"], self.flags), self._client("webauthn.get", asked["challenge"])
        signed = self.key.sign(told + hashlib.sha256(client).digest(), ec.ECDSA(hashes.SHA256()))
        parts = {"clientDataJSON": client, "authenticatorData": told, "signature": signed}
        return self._answer({name: as_text(part) for name, part in parts.items()})

    def _told(self, host: str, flags: int) -> bytes:
        return hashlib.sha256(host.encode()).digest() + bytes([flags]) + self.count.to_bytes(4, "big")

    def _client(self, kind: str, challenge: str) -> bytes:
        return json.dumps({"type": kind, "challenge": challenge, "origin": self.origin}).encode()

    def _public(self) -> bytes:
        at = self.key.public_key().public_numbers()
        return cbor2.dumps({1: 2, 3: -7, -1: 1, -2: at.x.to_bytes(32, "big"), -3: at.y.to_bytes(32, "big")})

    def _answer(self, response: dict[str, str]) -> str:
        named = {"id": as_text(self.key_id), "rawId": as_text(self.key_id), "type": "public-key"}
        return json.dumps({**named, "response": response})
