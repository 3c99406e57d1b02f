"""Sentences of the core, which speaks metric, in the reader's own units."""

import re

from valvetrain.quantities import QuantityKind, UnitSystem, show, unit_symbol

# Metric figures inside sentences, with the kind that turns them for a reader in inches; longer units first
_METRIC = (
    (r"N/mm", QuantityKind.RATE, 1e3), (r"mm/deg²", None, 1.0), (r"mm/rad²", None, 1.0), (r"mm", QuantityKind.LENGTH, 1e-3), (r"N·?m", None, 1.0),
    (r"N", QuantityKind.FORCE, 1.0), (r"bar", QuantityKind.PRESSURE, 1e5), (r"m/s²", None, 1.0), (r"m/s", QuantityKind.VELOCITY, 1.0),
)  # fmt: skip
_NUMBER = r"\d[\d,]*(?:\.\d+)?"
_IN_TEXT = re.compile(
    rf"(?P<first>{_NUMBER})(?P<between> to |–| and |…)?(?P<second>(?<=[ –d…]){_NUMBER})? (?P<unit>{'|'.join(row[0] for row in _METRIC)})(?![\w/²])"
)


def told(text: str, system: UnitSystem) -> str:
    """A sentence of the core, which speaks metric, for the reader's own units: `0.12 mm` becomes `.0047 in`."""
    if system is UnitSystem.METRIC:
        return text

    def turned(found: re.Match[str]) -> str:
        for unit, kind, factor in _METRIC:
            if re.fullmatch(unit, found["unit"]):
                if kind is None:
                    return found[0]
                given = [found[name].replace(",", "") for name in ("first", "second") if found[name]]
                places = [len(each.partition(".")[2]) for each in given]
                shown = [
                    show(float(each) * factor, kind, system, None if kind is not QuantityKind.LENGTH else min(place + 2, 4))
                    for each, place in zip(given, places, strict=True)
                ]
                return f"{(found['between'] or '').join(shown)} {unit_symbol(kind, system)}"
        return found[0]

    return _IN_TEXT.sub(turned, text)
