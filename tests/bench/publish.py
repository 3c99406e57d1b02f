"""What a measurement tells the table of speeds."""

from typing import Any


def publish(benchmark: Any, name: str, unit: str, factor: float, *, limit: float) -> None:
    """Its name, unit, factor from seconds, and the limit it is held to."""
    benchmark.extra_info.update({"name": name, "unit": unit, "factor": factor, "limit": limit})
