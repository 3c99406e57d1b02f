"""What to look at after an over-rev, in the right order, and what each finding means. Source: trade."""

from dataclasses import dataclass

from valvetrain.parts.engine import EngineKind, Gear, ValvePosition


@dataclass(frozen=True)
class Finding:
    """One thing that may be found: what it is called, what it means; `grave` forbids running the engine."""

    key: str
    words: str
    meaning: str
    grave: bool


@dataclass(frozen=True)
class Step:
    """One step of the inspection: at which place it is done (a cylinder, a valve, or the engine), how, and what may be found."""

    key: str
    place: str
    title: str
    how: str
    findings: tuple[Finding, ...]


_CROWN = (
    Finding("clean", "pockets clean", "Valve and piston did not meet here.", grave=False),
    Finding(
        "kissed", "bright witness mark", "They touched lightly: the stem may be bent. Leak-down decides; the keepers come out.", grave=True
    ),
    Finding(
        "struck", "dented, edge turned up", "A hit: valve out, guide measured, piston judged. Do not turn the engine further.", grave=True
    ),
)
_LEAK = (
    Finding("tight", "under a tenth, like the others", "Valves seal.", grave=False),
    Finding("intake", "hiss at the intake", "An intake valve does not seal: bent, or its seat hammered.", grave=True),
    Finding("exhaust", "hiss at the exhaust", "An exhaust valve does not seal: bent, or its seat hammered.", grave=True),
    Finding("rings", "hiss at the crankcase", "Rings or lands: bore and piston are looked at.", grave=True),
    Finding("gasket", "bubbles in the radiator", "Gasket or head: find it before it runs.", grave=True),
)
_KEEPERS = (
    Finding("sound", "level, no shine, no cracks", "They held.", grave=False),
    Finding(
        "sunk",
        "one keeper higher, or sunk in",
        "Retainer or keepers have moved: replace retainer, keepers and look at the groove.",
        grave=True,
    ),
    Finding("crack", "hairlines at the cone", "Replace. A mark that repeats on all is the casting's: dye tells.", grave=True),
)
_CLEARANCE = (
    Finding("same", "as on the last sheet", "Valve, seat and tip are where they were.", grave=False),
    Finding("opened", "opened", "Bent valve, mushroomed tip, or a shim that broke: it does not run.", grave=True),
    Finding("closed", "closed", "Seat hammered or face cupped: look at the seat; titanium is replaced.", grave=True),
)
_SPRINGS = (
    Finding("whole", "whole, standing square", "They survived; press one on the tester when they come out.", grave=False),
    Finding("broken", "broken or shorter", "Replace the whole set; its pieces are found before the engine turns.", grave=True),
)
_BEARINGS = (
    Finding("free", "free, no play, oil clean", "Nothing speaks for rod or bearings.", grave=False),
    Finding("play", "play up and down, or glitter in the oil", "Rod bolts, shells: the bottom comes apart.", grave=True),
)
_DRIVE = (
    Finding("marks", "marks stand, chain tight", "The timing did not jump.", grave=False),
    Finding("jumped", "a tooth off, or tensioner out", "Do not turn it: count the pins, time it again, then leak-down again.", grave=True),
)


def inspection(kind: EngineKind, valves: tuple[ValvePosition, ...]) -> tuple[Step, ...]:
    """The steps for one engine, in order: first what the borescope tells before anything turns, then what must come off."""
    cylinders = range(1, kind.cylinders + 1)
    side_valve = kind.gear is Gear.SIDE_VALVE
    steps: list[Step] = []
    if not side_valve:
        steps += [
            Step(
                f"crown-{n}", f"cylinder {n}", "Borescope, crown and pockets",
                "Before anything turns: plug out, lens in as the crank stands, every pocket and valve edge looked at. A bent valve and a piston meet "
                "again at the first turn. Only where all that can be seen is clean is it turned by hand, slowly, to see the rest.",
                _CROWN,
            )
            for n in cylinders
        ]  # fmt: skip
    steps.append(
        Step(
            "drive",
            "engine",
            "Cam drive and marks",
            "Cover off, look first: chain, tensioner, marks as they stand. Then turn by hand in running direction only, plugs out, stop at the first "
            "stiffness.",
            _DRIVE,
        )
    )
    steps += [
        Step(
            f"leak-{n}", f"cylinder {n}", "Leak-down",
            "TDC of compression, valves shut. Regulator up from zero; wrench off the crank, out of gear, hands off chain and sprocket: air turns it. "
            "Ear at intake, exhaust, crankcase, radiator. Goggles on.",
            _LEAK,
        )
        for n in cylinders
    ]  # fmt: skip
    steps += [
        Step(
            f"keepers-{place.name}", place.name, "Retainer and keepers",
            "Both halves equally high, cone and rim by lamp and glass. Before keepers come out with the head on the valve is held up: rope in the "
            "cylinder, or regulated air with the piston at TDC and the crank locked. Springs are under load: compressor and goggles.",
            _KEEPERS,
        )
        for place in valves
    ]  # fmt: skip
    steps += [
        Step(f"spring-{place.name}", place.name, "Spring", "Look all round it: broken coil, leaning, rubbed wire.", _SPRINGS)
        for place in valves
    ]
    steps += [
        Step(f"clearance-{place.name}", place.name, "Clearance", "Cold, on the base circle, against the last sheet.", _CLEARANCE)
        for place in valves
    ]
    steps.append(
        Step(
            "bearings",
            "engine",
            "Rods and bearings",
            "Piston just past TDC, push and pull by the plug hole or sump; oil over a magnet.",
            _BEARINGS,
        )
    )
    return tuple(steps)


def outcome(steps: tuple[Step, ...], found: dict[str, str]) -> tuple[str, str]:
    """What the findings so far come to: a state (`open`, `stop`, `clear`) and a sentence. `found` maps step keys to finding keys."""
    by_key = {step.key: {finding.key: finding for finding in step.findings} for step in steps}
    grave = [
        f"{step.place}, {step.title.lower()}: {by_key[step.key][found[step.key]].words}"
        for step in steps
        if step.key in found and by_key[step.key][found[step.key]].grave
    ]
    if grave:
        return "stop", f"It does not run: {'; '.join(grave)}."
    left = sum(step.key not in found for step in steps)
    if left:
        return "open", f"{len(steps) - left} of {len(steps)} looked at, nothing found so far. It cannot be called fine before the rest is."
    return "clear", f"All {len(steps)} looked at, nothing found. Run it up in stages, and read the clearances again after the first hours."
