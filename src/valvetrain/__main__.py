"""The core from a shell.

python -m valvetrain assess build.json [--units inch] [--setup stock]
python -m valvetrain lobe log.csv [--cam] [--units inch]
python -m valvetrain schema
"""

import argparse
import json
import math
import sys
from pathlib import Path

from valvetrain import wording
from valvetrain.errors import ValveTrainError
from valvetrain.formats import build_file, lobe_log, plain_table
from valvetrain.studies.cams import degree_wheel
from valvetrain.studies.review.build import review
from valvetrain.units import QuantityKind, UnitSystem, quantity, show, unit_symbol


def _assess(path: Path, system: UnitSystem, setup: str) -> str:
    record = build_file.read(path.read_text(encoding="utf-8-sig"))
    whole = review(record)
    found, goal = getattr(whole, setup), whole.completed.goal.goal_rpm
    lines = [
        f"{record.name}, {setup}: {wording.headline(found)}",
        *wording.summary(found, system, goal),
        wording.good_to(found, system),
        "",
    ]
    for check in found.checks:
        unit, sense = unit_symbol(check.kind, system), ">=" if check.at_least else "<="
        shown = [show(value, check.kind, system) for value in (check.figure, check.limit, check.margin, check.spread)]
        lines.append(
            f"{check.verdict:9} {wording.title(check):28} {shown[0]:>8} {sense} {shown[1]:>8} {unit:7}"
            f" margin {shown[2]:>7} ±{shown[3]:<6} {check.basis}; limit: {check.limit_origin}"
        )
        lines += [f"{'':10}{wording.remedy(remedy, system)}" for remedy in check.remedies]
    if found.measure_next:
        lines += ["", "Measure next:"]
        lines += [f"  {wording.input_name(m.what)} ({m.about}), {wording.how_to_measure(m.what)}" for m in found.measure_next]
    return "\n".join(lines)


def _lobe(path: Path, system: UnitSystem, *, crank: bool) -> str:
    """What a degree-wheel log says of its lobe."""
    log = lobe_log.read(plain_table.decode(path.read_bytes()), crank=crank, system=system)
    found = degree_wheel.fit(log.angle, log.lift)
    peak, band = found.peak_acceleration
    length = lambda value, decimals=None: quantity(value, QuantityKind.LENGTH, system, decimals)
    lines = [
        f"{len(log.angle)} readings, noise {length(found.noise, 4 if system is UnitSystem.METRIC else 5)}, {len(found.dropped)} left out as slips"
    ]
    lines += [f"  row {number + 1} of the readings, off by {length(abs(found.residuals[number]), 3)}" for number in found.dropped]
    lines.append(f"peak lift {length(found.peak_lift, 3)}, nose at {math.degrees(found.nose):.2f}° of cam as logged")
    for height in (0.1e-3, 1.0e-3, 1.27e-3):
        if height < found.peak_lift:
            lines.append(f"duration at {length(height)}: {2.0 * math.degrees(found.duration_at(height)):.1f} crank degrees")
    lines.append(f"largest acceleration {peak * 1e3:.1f} mm/rad² ±{band * 1e3:.1f}")
    if found.coarse:
        lines.append("The log is too coarse or too noisy for acceleration: log every 2 crank degrees with 0.01 mm or better.")
    return "\n".join(lines)


def main(arguments: list[str] | None = None) -> int:
    """Run the command line; returns the exit code, 2 with a sentence on bad input."""
    parser = argparse.ArgumentParser(prog="python -m valvetrain", description="Assess a valve train from a build file.")
    commands = parser.add_subparsers(dest="command", required=True)
    assess = commands.add_parser("assess", help="verdicts of a build file")
    assess.add_argument("file", type=Path)
    assess.add_argument("--units", choices=[system.value for system in UnitSystem], default=UnitSystem.METRIC.value)
    assess.add_argument("--setup", choices=["proposed", "stock"], default="proposed")
    lobe = commands.add_parser("lobe", help="lift, duration and acceleration of a degree-wheel log (CSV: angle, lift)")
    lobe.add_argument("file", type=Path)
    lobe.add_argument("--cam", action="store_true", help="angles are the camshaft's, not the crankshaft's")
    lobe.add_argument("--units", choices=[system.value for system in UnitSystem], default=UnitSystem.METRIC.value)
    commands.add_parser("schema", help="the JSON Schema of the build file")
    chosen = parser.parse_args(arguments)
    if chosen.command == "schema":
        print(json.dumps(build_file.schema(), indent=1))
        return 0
    try:
        system = UnitSystem(chosen.units)
        lobe_asked = chosen.command == "lobe"
        print(_lobe(chosen.file, system, crank=not chosen.cam) if lobe_asked else _assess(chosen.file, system, chosen.setup))
    except (ValveTrainError, OSError, UnicodeDecodeError) as error:
        print(f"{chosen.file}: {error}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
