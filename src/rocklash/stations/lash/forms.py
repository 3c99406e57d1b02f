"""What one valve's reading sends."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Sent:
    """What was sent for one valve, as typed. `seen` is the revision of the reading the person saw, 0 for none."""

    valve: str
    goes: str
    stops: str
    shim: str
    source: str
    seen: str
    label: str = ""
    renewed: str = ""
