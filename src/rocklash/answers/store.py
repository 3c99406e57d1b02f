"""What has been worked out, kept by content: in this process as long as there is room, and where workers run, in the database for all."""

import hashlib
import threading
from collections.abc import Hashable
from functools import cache
from pathlib import Path
from typing import Any

from cachetools import LRUCache

import valvetrain

# How many of each kind a process keeps: a review with its lobes is some 100 kB, a motion with its traces about 2 MB.
_ROOM = {
    "build": 1024,
    "review": 512,
    "motion": 40,
    "strain": 4000,
    "calibration": 32,
    "plan": 64,
    "pdf": 8,
    "choose": 400,
    "advice": 64,
    "regrind": 64,
    "proof": 16,
}

_memory: dict[str, LRUCache[str, Any]] = {kind: LRUCache(maxsize=room) for kind, room in _ROOM.items()}
_lock = threading.Lock()


def content_key(*content: Hashable) -> str:
    """A name for exactly this content; frozen objects of the core are named by what they hold."""
    return hashlib.blake2b(repr(content).encode(), digest_size=16).hexdigest()


@cache
def code_key() -> str:
    """A name for the core as it stands, so that nothing that other code worked out is taken for this one's."""
    root = Path(str(valvetrain.__path__[0]))
    digest = hashlib.blake2b(digest_size=6)
    for file in sorted([path for kind in ("py", "csv", "toml") for path in root.rglob(f"*.{kind}")]):
        digest.update(file.read_bytes())
    return digest.hexdigest()


def recall(kind: str, key: str) -> Any:
    """What this process keeps under a key; None for nothing."""
    with _lock:
        return _memory[kind].get(key)


def remember(kind: str, key: str, value: Any) -> None:
    """Keep a value in this process."""
    with _lock:
        _memory[kind][key] = value


def forget(kind: str) -> None:
    """Drop everything of a kind that this process keeps."""
    with _lock:
        _memory[kind].clear()
