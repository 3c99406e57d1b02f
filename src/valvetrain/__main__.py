"""The core from a shell.

python -m valvetrain assess build.json [--units inch] [--setup stock]
python -m valvetrain schema
"""

import argparse
import json
import sys
from pathlib import Path

from valvetrain.errors import ValveTrainError
from valvetrain.formats import build_file
from valvetrain.quantities import System, show, unit_symbol
from valvetrain.studies import wording
from valvetrain.studies.review import review


def _assess(path: Path, system: System, setup: str) -> str:
    record = build_file.read(path.read_text(encoding="utf-8-sig"))
    found = getattr(review(record), setup)
    lines = [f"{record.name}, {setup}: {wording.headline(found)}", *wording.summary(found, system), wording.good_to(found, system), ""]
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


def main(arguments: list[str] | None = None) -> int:
    """Run the command line; returns the exit code, 2 with a sentence on bad input."""
    parser = argparse.ArgumentParser(prog="python -m valvetrain", description="Assess a valve train from a build file.")
    commands = parser.add_subparsers(dest="command", required=True)
    assess = commands.add_parser("assess", help="verdicts of a build file")
    assess.add_argument("file", type=Path)
    assess.add_argument("--units", choices=[system.value for system in System], default=System.METRIC.value)
    assess.add_argument("--setup", choices=["proposed", "stock"], default="proposed")
    commands.add_parser("schema", help="the JSON Schema of the build file")
    chosen = parser.parse_args(arguments)
    if chosen.command == "schema":
        print(json.dumps(build_file.schema(), indent=1))
        return 0
    try:
        print(_assess(chosen.file, System(chosen.units), chosen.setup))
    except (ValveTrainError, OSError, UnicodeDecodeError) as error:
        print(f"{chosen.file}: {error}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
