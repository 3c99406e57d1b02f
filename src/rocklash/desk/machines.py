"""The way in for machines: a secret in the address or in a header, kept as its fingerprint alone."""

import hashlib
from datetime import timedelta

from django.http import HttpRequest
from django.utils import timezone

from rocklash.records.models import AccessKey, AccessKind
from rocklash.records.selectors.due import workshop_by_key

_LONGEST = 200
_NOTED = timedelta(minutes=10)  # how often it is noted that a key was used


def fingerprint_of(secret: str) -> str:
    """What is kept of a secret."""
    return hashlib.sha256(secret.encode("utf-8", "replace")).hexdigest()


def key_of(kind: AccessKind, secret: str) -> AccessKey | None:
    """The key of a secret, with its workshop; None for one that is not, or no longer, handed out."""
    if not secret or len(secret) > _LONGEST:
        return None
    key = workshop_by_key(kind, fingerprint_of(secret))
    now = timezone.now()
    if key and (key.used_at is None or now - key.used_at > _NOTED):
        key.used_at = now
        key.save(update_fields=["used_at"])
    return key


def bearer_of(request: HttpRequest) -> str:
    """The secret of a request's Authorization header, empty where it has none (RFC 6750)."""
    scheme, _, secret = request.headers.get("Authorization", "").partition(" ")
    return secret.strip() if scheme.lower() == "bearer" else ""
