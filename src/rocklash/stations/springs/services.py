"""Mutations of the Springs & masses station: what an engine was seen to do, tester logs, heights, shims and weighings."""

from django.db import transaction
from django.http import QueryDict
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.records.models import Build, Membership, Observation, SetupRole
from rocklash.records.mutations import journal, require_change
from valvetrain.errors import ValveTrainError
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.quantities import Kind, System, parse, show

_USUAL_DOUBT = 0.02  # share of the speed that a tachometer and an eye leave open, k = 2. Source: judgement
_LONGEST_NOTE = 300


def number_of(text: str) -> int:
    """A row's number as sent, -1 for anything else."""
    return int(text) if text.isdigit() else -1


def springs_of(build: Build, role: str, side: str) -> str:
    """The names of the springs in a set-up, as evidence of what was observed."""
    for setup in build.setups.all():
        for row in setup.sides.all():
            if setup.role == role and row.side == side:
                return " and ".join(str(part) for part in (row.outer_spring, row.inner_spring) if part)[:300]
    return ""


def keep_observation(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep where an engine gave up, with its evidence; the newest one is what a prediction rests on. Returns a sentence when not kept."""
    require_change(member)
    system = System(member.user.unit_system)
    side, role = post.get("side", ""), post.get("role", "")
    if side not in set(Side) or role not in set(SetupRole):
        return "Say which side and which set-up it was seen on."
    try:
        speed = parse(post.get("speed", ""), Kind.SPEED, system).value
        FIGURES[Owner.GOAL, "goal_rpm"].check(speed, system)
        doubt = post.get("doubt", "").strip()
        spread = parse(doubt, Kind.SPEED, system).value if doubt else _USUAL_DOUBT * speed
        if not 0.0 <= spread <= 0.5 * speed:
            return f"A doubt of {show(spread, Kind.SPEED)} rpm about {show(speed, Kind.SPEED)} rpm tells nothing: give less, or nothing."
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    with transaction.atomic():
        Observation.objects.filter(build=build, side=side, in_use=True).update(in_use=False)
        kept = Observation.objects.create(
            build=build, role=role, side=side, speed=speed, spread=spread, note=post.get("note", "").strip()[:_LONGEST_NOTE],
            parts=springs_of(build, role, side), by=member.user,
        )  # fmt: skip
        Build.objects.filter(pk=build.pk).update(kept_at=timezone.now())
        journal(member, "gave up", f"{build.name}: {role} {side}", "", f"{show(kept.speed, Kind.SPEED)} rpm")
    return ""


def use_observation(member: Membership, build: Build, post: QueryDict) -> str:
    """Rest the prediction on an observation, or leave it out; it stays on record either way."""
    require_change(member)
    with transaction.atomic():
        row = get_object_or_404(Observation.objects.select_for_update().filter(build=build), pk=number_of(post.get("observation", "")))
        use = post.get("use") == "yes"
        if use:
            Observation.objects.filter(build=build, side=row.side, in_use=True).update(in_use=False)
        row.in_use = use
        row.save(update_fields=["in_use"])
        journal(member, "gave up", f"{build.name}: {row.role} {row.side}", "", "used" if use else "left out")
    return ""
