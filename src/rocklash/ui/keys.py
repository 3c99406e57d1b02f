"""Every key that does something, by page: told on one page, and switched off by one word where single letters are in a person's way."""

from typing import Final

KEYS: Final[tuple[tuple[str, tuple[tuple[str, str], ...]], ...]] = (
    (
        "Everywhere",
        (
            ("?", "this list"),
            ("/", "to the search, on the board"),
            ("L", "folds and opens the rev ladder"),
            ("Tab, Enter", "from field to field; Enter saves a field"),
        ),
    ),
    ("Board and New engine", (("1 to 6", "what brings it here"),)),
    (
        "Lash",
        (
            ("figures, then Enter", "thickest blade that goes in, thinnest that does not, shim: the last Enter records and goes on"),
            ("arrows", "from valve to valve on the head"),
            ("Z", "undoes the last reading"),
        ),
    ),
    (
        "Job, one step",
        (
            ("space", "ticks the step"),
            ("left, right", "the step before, the step after"),
            ("N", "reads the step aloud"),
            ("Z", "takes the last tick back"),
        ),
    ),
    ("Drawings with a brass line", (("left, right", "moves the line; with shift ten times as far"),)),
    ("Runs and pulls", (("+, \N{MINUS SIGN}, arrows, 0", "nearer, further, along, the whole"),)),
)
