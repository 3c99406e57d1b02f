"""A head from above, small: bores in a row with their valves, by which an engine is known at a glance."""

from functools import lru_cache

from django.utils.safestring import SafeString

from rocklash.ui.drawings.shapes import circle, drawing, rect, written

_BORE, _HEIGHT = 22.0, 34.0


@lru_cache(maxsize=64)
def small_head(cylinders: int, valves_per_side: int, read: bool) -> SafeString:  # noqa: FBT001  (one mark, told by its name)
    """Exhaust above, intake below; filled where a whole sheet of clearances was read."""
    rows, radius = {1: (0.0,), 2: (-4.4, 4.4), 3: (-6.0, 0.0, 6.0)}[valves_per_side], 3.6 if valves_per_side < 3 else 2.6
    drawn = [rect("sheet edge", 1, 1, 6 + _BORE * cylinders, _HEIGHT - 2, rx=3)]
    for number in range(cylinders):
        x = 4 + _BORE * (number + 0.5)
        drawn += [
            circle("c-holds" if read else "h-open", round(x + across, 1), y, radius)
            for y in (_HEIGHT / 2 - 7, _HEIGHT / 2 + 7)
            for across in rows
        ]
        drawn.append(circle("h-plug", x, _HEIGHT / 2, 1.6))
    words = f"head from above, {cylinders * valves_per_side * 2} valves, clearances {'read' if read else 'not read'}"
    return written(drawing("smallhead", f"0 0 {8 + _BORE * cylinders:g} {_HEIGHT:g}", words, *drawn))
