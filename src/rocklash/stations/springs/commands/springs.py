"""Mutations of the Springs & masses station: what an engine was seen to do, tester logs, heights, shims and weighings."""

import secrets

from django.db import transaction
from django.http import QueryDict
from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.answers.calibration import learning_of, stop_learning
from rocklash.answers.results import answer_for
from rocklash.answers.tester import place_of
from rocklash.commands.base import journal, require_change
from rocklash.commands.facts import note_kept
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Build, Membership, Observation, Part, SetupRole, SpringLog, TesterRun
from valvetrain.errors import QuantityError, ValveTrainError
from valvetrain.formats import plain_table, spring_log
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Side
from valvetrain.parts.figure import Basis
from valvetrain.quantities import parse
from valvetrain.studies.springs.spring_test import fit_spring, read_set
from valvetrain.units import QuantityKind, UnitSystem, show

_USUAL_DOUBT = 0.02  # share of the speed that a tachometer and an eye leave open, k = 2. Source: judgement
_LONGEST_NOTE, _LONGEST_CLAIM = 300, 80
LARGEST = 1_000_000  # bytes of a log


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
    system = UnitSystem(member.user.unit_system)
    side, role = post.get("side", ""), post.get("role", "")
    if side not in set(Side) or role not in set(SetupRole):
        return "Say which side and which set-up it was seen on."
    try:
        speed = parse(post.get("speed", ""), QuantityKind.SPEED, system).value
        FIGURES[Owner.GOAL, "goal_rpm"].check(speed, system)
        doubt = post.get("doubt", "").strip()
        spread = parse(doubt, QuantityKind.SPEED, system).value if doubt else _USUAL_DOUBT * speed
        if not 0.0 <= spread <= 0.5 * speed:
            return f"A doubt of {show(spread, QuantityKind.SPEED)} rpm about {show(speed, QuantityKind.SPEED)} rpm tells nothing: give less, or nothing."
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    with transaction.atomic():
        Observation.objects.filter(build=build, side=side, in_use=True).update(in_use=False)
        kept = Observation.objects.create(
            build=build, role=role, side=side, speed=speed, spread=spread, note=post.get("note", "").strip()[:_LONGEST_NOTE],
            parts=springs_of(build, role, side), by=member.user,
        )  # fmt: skip
        Build.objects.filter(pk=build.pk).update(updated_at=timezone.now())
        journal(member, "gave up", f"{build.name}: {role} {side}", "", f"{show(kept.speed, QuantityKind.SPEED)} rpm")
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
        learning = None if use else learning_of(answer_for(build), row)
        if learning and learning.running:
            transaction.on_commit(lambda: stop_learning(learning))  # nobody waits for it any more
        journal(member, "gave up", f"{build.name}: {row.role} {row.side}", "", "used" if use else "left out")
    return ""


def keep_spring_log(member: Membership, build: Build, part: Part, raw: bytes, post: QueryDict) -> str:
    """Fit a tester log and keep it with its spring: measured figures of the part are the set's. A sentence when it was not kept."""
    require_change(member)
    if len(raw) > LARGEST:
        return "The log is larger than a megabyte; ten heights a spring are plenty. Nothing was kept."
    system, used = UnitSystem(member.user.unit_system), post.get("state") == "used"
    side = post.get("side", "")
    place = place_of(answer_for(build), build, part, Side(side) if side in set(Side) else Side.INTAKE)
    try:
        text = plain_table.decode(raw)
        readings = spring_log.read(text, system=system)
        fits = [fit_spring(one.name, one.height, one.load) for one in readings]
        leans = _leans(post.get("leans", ""), {fit.name for fit in fits}, system)
        height = place.height if place else fits[0].height
        told = read_set(fits, height, place.lift if place else height - fits[0].low, leans=leans)
        for key, figure in told.figures.items():
            FIGURES[Owner.SPRING, key].check(figure.value, system)
    except ValveTrainError as error:
        return f"{error} Nothing was kept."
    with transaction.atomic():
        locked = Part.objects.select_for_update().get(pk=part.pk)
        now = timezone.now().isoformat(timespec="seconds")
        for key, figure in told.figures.items():
            stored = stored_figure(Owner.SPRING, key, figure.value, Basis.MEASURED, "", "", member.user.username, now)
            locked.figures[key] = stored | {"spread": max(figure.spread, 1e-9)}
        if "bend" not in told.figures:
            locked.figures.pop("bend", None)
        locked.facts = locked.facts | {"state": "used" if used else "new"}
        locked.save(update_fields=["figures", "facts"])
        count = sum(len(one.height) for one in readings)
        SpringLog.objects.create(part=locked, by=member.user, text=text, system=system.value, used=used, leans=leans, readings=count)
        journal(member, "spring tester", f"{build.name}: {locked}", "", f"{len(fits)} springs, {count} readings")
        return note_kept(member, build)


def _leans(text: str, names: set[str], system: UnitSystem) -> dict[str, float]:
    """`2: 1.5, 3: 0.4` as lengths by spring. Raises QuantityError for what is neither."""
    found = {}
    for item in filter(None, (part.strip() for part in text.replace(";", ",").split(","))):
        name, _, lean = item.partition(":")
        if name.strip() not in names or not lean.strip():
            listed = ", ".join(sorted(names))
            raise QuantityError(
                f"“{item}” is not a spring of this log and how far it leans: write for example {min(names)}: 1.2 (springs: {listed})."
            )
        found[name.strip()] = parse(lean.strip(), QuantityKind.LENGTH, system).value
    return found


def keep_claim(member: Membership, build: Build, part: Part, post: QueryDict) -> str:
    """Keep what the packet says, as a claim and nothing more."""
    require_change(member)
    words = post.get("claim", "").strip()
    if len(words) > _LONGEST_CLAIM:
        return f"Keep the packet's words to {_LONGEST_CLAIM} letters."
    with transaction.atomic():
        locked = Part.objects.select_for_update().get(pk=part.pk)
        before, locked.claim = locked.claim, words
        locked.save(update_fields=["claim"])
        journal(member, "claim", f"{build.name}: {locked}", before, words)
    return ""


def begin_test(member: Membership, build: Build, part: Part) -> TesterRun:
    """Put a set of hidden springs on the simulated tester; a run under way is ended first."""
    require_change(member)
    with transaction.atomic():
        TesterRun.objects.filter(part=part, ended_at=None).update(ended_at=timezone.now())
        run = TesterRun.objects.create(part=part, by=member.user, seed=secrets.randbelow(1_000_000))
        journal(member, "simulated tester", f"{build.name}: {part}", "", "set begun")
    return run


def end_test(member: Membership, run: TesterRun) -> None:
    """Stop the simulated tester; what was read until now stays."""
    require_change(member)
    if run.ended_at is None:
        run.ended_at = timezone.now()
        run.save(update_fields=["ended_at"])
