"""Results in plain words, by topic; each takes a result and a unit system, and every number in a sentence is computed."""

from valvetrain.units import told
from valvetrain.wording.checks import NAMES, action, effect, price, remedy, title, turn, verdict_word
from valvetrain.wording.headline import answer, good_to, headline, summary, three_answers
from valvetrain.wording.inputs import how_to_measure, input_name

__all__ = [
    "NAMES",
    "action",
    "answer",
    "effect",
    "good_to",
    "headline",
    "how_to_measure",
    "input_name",
    "price",
    "remedy",
    "summary",
    "three_answers",
    "title",
    "told",
    "turn",
    "verdict_word",
]
