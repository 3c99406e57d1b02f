from datetime import datetime

from django.db import migrations
from django.utils import timezone


def _moment(text, usual):
    try:
        moment = datetime.fromisoformat(text)
    except (TypeError, ValueError):
        return usual
    return moment if timezone.is_aware(moment) else timezone.make_aware(moment)


def pins_and_plans(apps, _):
    """Pins and plans of a sheet become rows; a valve that is gone takes its own with it."""
    session_model, position = apps.get_model("records", "ClearanceSession"), apps.get_model("records", "Position")
    pin_model, planned_model = apps.get_model("records", "ShimPin"), apps.get_model("records", "PlannedShim")
    for session in session_model.objects.all().iterator():
        places = set(position.objects.filter(engine__builds=session.build_id).values_list("pk", flat=True))
        pins = []
        for place, pin in session.pins.items():
            if int(place) in places:
                kinds = [("stays", "")] * bool(pin.get("stays")) + [("only", pin.get("only", ""))] * bool(pin.get("only"))
                kinds += [("never", key) for key in dict.fromkeys(pin.get("never", []))]
                pins += [pin_model(session=session, position_id=int(place), kind=kind, key=key) for kind, key in kinds]
        pin_model.objects.bulk_create(pins)
        planned_model.objects.bulk_create(
            planned_model(
                session=session,
                position_id=int(place),
                size=float(kept["size"]),
                key=str(kept.get("key") or ""),
                source=str(kept.get("source") or ""),
                low=float(kept["low"]),
                high=float(kept["high"]),
            )
            for place, kept in session.plan.items()
            if int(place) in places
        )


def words_of_engines(apps, _):
    """Firing order, the manual's note and the shims' shape leave the words of the catalogue, which they never were."""
    for engine in apps.get_model("records", "Engine").objects.all().iterator():
        facts = dict(engine.facts)
        engine.firing_order = str(facts.pop("firing", ""))[:60]
        engine.clearance_note = str(facts.pop("lash_note", ""))[:300]
        engine.shim_shape = str(facts.pop("shim_shape", ""))[:40]
        engine.facts = facts
        engine.save(update_fields=["firing_order", "clearance_note", "shim_shape", "facts"])


def histories(apps, _):
    """What is known today is the first line of every figure's history."""
    change, user = apps.get_model("records", "FigureChange"), apps.get_model("records", "User")
    people, now = dict(user.objects.values_list("username", "pk")), timezone.now()
    holders = (
        ("engine", "Engine", "workshop_id"),
        ("goal", "Build", "workshop_id"),
        ("part", "Part", "workshop_id"),
        ("fit", "SetupSide", "setup__build__workshop_id"),
    )
    for holder, name, workshop in holders:
        for number, shop, figures in apps.get_model("records", name).objects.values_list("pk", workshop, "figures").iterator():
            change.objects.bulk_create(
                change(
                    workshop_id=shop,
                    holder=holder,
                    owner_id=number,
                    key=key,
                    value=row["value"],
                    spread=row["spread"],
                    basis=row["basis"],
                    typed=row.get("typed", "")[:80],
                    unit=row.get("unit", "")[:20],
                    by_id=people.get(row.get("by")),
                    at=_moment(row.get("at"), now),
                )
                for key, row in figures.items()
            )


def lines_of_builds(apps, _):
    """A line of the journal that begins with the name of just one build of its workshop belongs to it."""
    entry, build = apps.get_model("records", "JournalEntry"), apps.get_model("records", "Build")
    names = {}
    for number, shop, name in build.objects.values_list("pk", "workshop_id", "name"):
        names.setdefault((shop, name), []).append(number)
    for (shop, name), numbers in names.items():
        if len(numbers) == 1:
            lines = entry.objects.filter(workshop_id=shop, build=None)
            (lines.filter(about=name[:160]) | lines.filter(about__startswith=f"{name}: ")).update(build_id=numbers[0])


class Migration(migrations.Migration):
    dependencies = [("records", "0010_journal_and_rows")]

    operations = [
        migrations.RunPython(each, migrations.RunPython.noop) for each in (pins_and_plans, words_of_engines, histories, lines_of_builds)
    ]
