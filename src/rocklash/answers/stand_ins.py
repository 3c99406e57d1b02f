"""Files as a clamp meter, a phone and a dyno would give them, of an engine of so many cylinders: simulated, each the same every time."""

import math
from dataclasses import replace

from valvetrain.errors import OutOfRangeError
from valvetrain.formats import recording, run_table
from valvetrain.simulators import dyno_bench, pull_sound, starter_bench


def _starter(cylinders: int) -> tuple[bytes, str, str]:
    made = starter_bench.make(starter_bench.even(cylinders, [(cylinders - 1, 0.85)]), 7)
    text = run_table.write({"time": made.time, "current": made.current, "mark": made.mark})
    return text.encode(), "text/csv; charset=utf-8", "starter-current.csv"


def _pull(cylinders: int) -> tuple[bytes, str, str]:
    angles = tuple(4.0 * math.pi * each / cylinders for each in range(cylinders))
    made = pull_sound.make(pull_sound.PullPlan(angles=angles, top=150.0, giving=pull_sound.Giving.CLATTER, seconds=14.0), 7)
    return recording.write(made.samples, made.rate), "audio/wav", "pull.wav"


def _run(plan: dyno_bench.DynoPlan, name: str) -> tuple[bytes, str, str]:
    made = dyno_bench.run(plan, 7)
    text = run_table.write({"time": made.time, "rpm": made.speed, "torque": made.torque})
    return text.encode(), "text/csv; charset=utf-8", name


def file_of(what: str, cylinders: int) -> tuple[bytes, str, str]:
    """The file, its content type and its name. `what` is starter, pull, run-floats or run-holds. Raises OutOfRangeError for anything else."""
    plan = dyno_bench.DynoPlan(torque=16.0 * cylinders)
    if what == "starter":
        return _starter(cylinders)
    if what == "pull":
        return _pull(cylinders)
    if what == "run-floats":
        return _run(replace(plan, floats=180.0), "run-that-floats.csv")
    if what == "run-holds":
        return _run(plan, "run-that-holds.csv")
    raise OutOfRangeError(f"There is no stand-in called “{what}”.")
