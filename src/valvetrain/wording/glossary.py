"""The terms of the bench, each in one line, by topic: what a page links to where a term first stands on it."""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True)
class Term:
    """A term, its line, and the drawing that goes with it (empty for none)."""

    key: str
    name: str
    line: str
    drawing: str = ""


TOPICS: Final[tuple[tuple[str, tuple[Term, ...]], ...]] = (
    ("At speed", (
        Term("float", "Float", "The valve train leaves the lobe because the springs cannot slow it: the valve closes late and hard.", "float"),
        Term("float-sum", "Float, simple sum (rigid)", "The speed at which spring force and the force to slow the masses are equal, with every part taken as stiff."),
        Term("float-at-speed", "Float at speed (simulated)", "The speed at which a train that bends and springs that surge lose the lobe in the model: first for moments, then for good."),
        Term("surge", "Surge", "Coils of a spring swinging at their own frequency: load comes and goes while the height stays the same."),
        Term("bounce", "Bounce", "The valve comes off its seat again after it has closed."),
        Term("over-rev", "Over-rev", "A speed above the working maximum: a missed shift, a pump out of the water, a chain that comes off."),
        Term("margin", "Margin, in hand", "How much better than its limit a figure is; the same with a minus is what is short."),
    )),
    ("Springs", (
        Term("installed-height", "Installed height", "Spring seat to retainer with the valve closed.", "installed-height"),
        Term("seat-load", "Seat force, seat load", "Spring force with the valve closed: holds the valve on its seat against boost and bounce.", "loads"),
        Term("open-load", "Open load, open force", "Spring force at full lift: holds the train on the nose of the lobe.", "loads"),
        Term("rate", "Rate", "Force a spring gains for each millimetre (or inch) it is pressed."),
        Term("coil-bind", "Coil bind", "All coils touch. The gap left to it at full lift is what is checked.", "coil-bind"),
        Term("solid-height", "Solid height", "Height of the spring with all coils touching."),
        Term("set", "Set", "Height and load a spring loses for good when its wire is stressed too far."),
        Term("retainer", "Retainer", "Plate on the stem that the spring pushes against."),
        Term("keepers", "Keepers", "Split collars between stem and retainer: one groove or several, or none with a keyhole retainer."),
        Term("retainer-to-seal", "Retainer to seal", "Gap left between retainer and stem seal (or guide) at full lift."),
    )),
    ("Cam and follower", (
        Term("duration", "Duration", "Crank degrees for which the valve is lifted more than the height that is named with it.", "duration"),
        Term("lobe-centre", "Lobe centre", "Crank angle of full lift, from top dead centre at overlap.", "duration"),
        Term("overlap", "Overlap", "Crank degrees for which intake and exhaust are both open.", "duration"),
        Term("base-circle", "Base circle", "Round back of the lobe, on which the valve is closed and clearance is measured.", "lobe"),
        Term("flank", "Flank", "Side of the lobe that opens or closes the valve; concave (inverted) when it is hollow.", "lobe"),
        Term("ramp", "Ramp", "Gentle start and end of the lift that takes up the clearance."),
        Term("follower", "Follower", "What rides on the lobe: bucket, finger, rocker or tappet."),
        Term("pressure-angle", "Pressure angle", "Angle between the push of the lobe and the path of the follower: the larger, the more it pushes sideways."),
    )),
    ("Clearances", (
        Term("clearance", "Clearance, lash", "Gap between closed valve and its drive, measured cold.", "lash"),
        Term("shim", "Shim", "Hardened disc whose thickness sets the clearance: under the bucket, on top of it, or on the stem's tip.", "lash"),
        Term("lash-cap", "Lash cap", "Cap on the stem's tip that takes its place."),
        Term("go-no-go", "Go, no-go", "Thickest blade that goes in, and thinnest that will not: the clearance lies between.", "lash"),
        Term("recession", "Recession", "Valve sinking into its seat: clearance closes with the hours."),
        Term("protrusion", "Tip protrusion", "How far the stem's tip stands above the head: tells recession, and decides the shim."),
    )),
    ("Room and gas", (
        Term("valve-to-piston", "Valve to piston", "Least gap between valve head and piston, some degrees off top dead centre."),
        Term("squish", "Squish", "Gap between the piston's flat and the head at top dead centre."),
        Term("trapped-ratio", "Trapped (dynamic) compression ratio", "Compression from where the intake closes, not from bottom dead centre."),
        Term("curtain", "Curtain", "Area between valve head and seat that the gas passes."),
        Term("seat-width", "Seat width", "Width of the ring on which the valve seals and sheds its heat."),
    )),
)  # fmt: skip
TERMS: Final = {term.key: term for _, terms in TOPICS for term in terms}
