"""How each station works, in a line or two: a strip on its pages that can be put away."""

from typing import Final

HOW: Final[dict[str, str]] = {
    "overview": "The answer first, then the one act that gains most, then fixes and measurements. Try a fix to see what every check would say; nothing is saved until you take it.",
    "engine": "What it is and what its maker says. Type over a dashed figure to make it yours; how it is known decides how far it is trusted.",
    "goal": "How fast, how long, with how much boost. The limits come from the use until you type your own.",
    "cams": "Choose a cam, or enter what its card says. The more of it is measured, the narrower every speed on the rev ladder becomes.",
    "springs": "One side at a time. Choose parts or type their figures; the drawing, the forces and the rev ladder follow at once.",
    "room": "Every gap at full lift and past top dead centre. Estimates decide until you measure: clay, drop test, calipers.",
    "choose": "Say what may be changed and what it may cost; every set on the shelf is tried against every check.",
    "job": "The work in its order, one step at a time. Tick on the phone beside the engine; what is open is shown on every page.",
    "lash": "Read a valve: the thickest blade that goes in, the thinnest that does not, the shim in it. When all are read, the plan says what goes where.",
    "proof": "What the engine did, beside what was forecast. Each test narrows what is assumed of this engine.",
    "logbook": "Hours, care and wear. What is due follows from them; enter hours from any page with + hours.",
}
