"""The second round as view-models: what went in, what the clearance should be now, and what it is."""

from dataclasses import dataclass

from rocklash.answers.clearances import ValveStatus
from rocklash.records.models import ClearanceSession
from rocklash.stations.lash.pages.notes import Printer
from valvetrain import wording
from valvetrain.studies.clearance.shim_plan import Act

_UNLIKE = "Not what was predicted: is it seated, is the valve on its base circle, are two shims or caps exchanged? Read it again."


@dataclass(frozen=True, kw_only=True)
class RecheckRow:
    """One valve: clearance before, shim out and in, what it should be, what it is, verdict and what follows."""

    valve: str
    before: str
    done: str
    expected: str
    now: str
    verdict: str
    why: str


def shim_moved(row: ValveStatus, session: ClearanceSession, printer: Printer) -> str:
    """The shim that went in for the one that was there; nothing where no shim was read."""
    if row.first is None or not row.first.shim:
        return ""
    kept = session.planned.get(row.position.pk)
    now = row.again.shim if row.again and row.again.shim else kept.size if kept else row.first.shim
    if abs(now - row.first.shim) < 1e-9:
        return f"{printer.shim(now)} stays"
    return f"{printer.shim(row.first.shim)} → {printer.shim(now)}"


def _next(row: ValveStatus, printer: Printer) -> str:
    """What a valve that is not right yet asks for."""
    plan = row.plan
    if plan is None:
        return ""
    if plan.act is Act.SHIM and plan.amount:
        return f"Fit {printer.shim(plan.amount)} instead."
    if plan.act is Act.TURN and plan.amount:
        return f"{wording.turn(plan.amount).capitalize()}."
    if plan.act is Act.GRIND and plan.amount:
        return f"Grind {printer.gap(plan.amount)} more off."
    return wording.told(plan.why, printer.system)


def recheck_row(row: ValveStatus, session: ClearanceSession, printer: Printer) -> RecheckRow:
    """One line of the second round."""
    expected = printer.interval(*row.expected) if row.expected else ""
    before = printer.interval(row.found.low, row.found.high) if row.found else ""
    done = shim_moved(row, session, printer)
    if row.found_again is None:
        return RecheckRow(valve=row.position.name, before=before, done=done, expected=expected, now="", verdict="", why="")
    now = printer.interval(row.found_again.low, row.found_again.high)
    why = [] if row.state == "in range" else [_next(row, printer)]
    if row.as_predicted is False:
        why.insert(0, _UNLIKE)
    elif row.as_predicted and row.state == "in range":
        why.append("As predicted.")
    return RecheckRow(valve=row.position.name, before=before, done=done, expected=expected, now=now, verdict=row.state, why=" ".join(why))


def waiting(row: ValveStatus, session: ClearanceSession, printer: Printer) -> tuple[list[tuple[str, str]], tuple[str, str], str]:
    """For the valve about to be read again: what was, what went in, what should be there now, and how to get there."""
    line = recheck_row(row, session, printer)
    lines = [("before", line.before)] + ([("shim", line.done)] if line.done else [])
    big = (f"should be {line.expected}", "") if line.expected else ("", "")
    return lines, big, "Turn the crank twice by hand in running direction, come back to this stop, then read."
