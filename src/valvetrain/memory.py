"""Work that is done once for equal content: what a person changes is one side of one set-up, and the rest need not be worked out again."""

import hashlib
import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from cachetools import LRUCache

_Found = TypeVar("_Found")


def name_of(*content: object) -> str:
    """A name for exactly this content. Frozen objects of the core are named by what they hold: their `repr` says all that counts, and leaves
    out what follows from it."""
    return hashlib.blake2b(repr(content).encode(), digest_size=16).hexdigest()


class Kept(Generic[_Found]):
    """The last results of a pure function in this process, by the name of what they follow from. What it raises is not kept.

    Threads may work out the same content at once; then the results are equal, and one of them is kept.
    """

    def __init__(self, most: int) -> None:
        self._found: LRUCache[str, _Found] = LRUCache(maxsize=most)
        self._lock = threading.Lock()

    def get(self, name: str, work_out: Callable[[], _Found]) -> _Found:
        """What was worked out under this name, or what is worked out now."""
        with self._lock:
            if name in self._found:
                return self._found[name]
        found = work_out()
        with self._lock:
            self._found[name] = found
        return found
