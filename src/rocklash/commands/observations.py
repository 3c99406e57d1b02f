"""Where an engine was seen to give up: the newest one of a side is what a prediction rests on, whoever keeps it."""

from rocklash.commands.base import Command
from rocklash.records.models import Build, Observation
from valvetrain.units import QuantityKind, show


def springs_of(build: Build, role: str, side: str) -> str:
    """The names of the springs in a set-up, as evidence of what was observed."""
    for setup in build.setups.all():
        for row in setup.sides.all():
            if setup.role == role and row.side == side:
                return " and ".join(str(part) for part in (row.outer_spring, row.inner_spring) if part)[:300]
    return ""


def observe(command: Command, *, role: str, side: str, speed: float, spread: float, note: str) -> Observation:
    """Keep it as part of a command, and rest the prediction on it in place of those before."""
    build = command.subject
    for other in Observation.objects.select_for_update(of=("self",), no_key=True).filter(build=build, side=side, in_use=True):
        command.ledger.set(other, in_use=False)
    row: Observation = command.ledger.make(
        Observation, build=build, role=role, side=side, speed=speed, spread=spread, note=note, parts=springs_of(build, role, side), by=command.member.user
    )  # fmt: skip
    command.note(f"{role} {side}", "", f"{show(speed, QuantityKind.SPEED)} rpm")
    return row
