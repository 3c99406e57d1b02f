"""The one way in which records change: sent twice is done once, conflicts answer 409, the last of one's own is undone, every figure has a history."""

import gzip
import re
from typing import Any

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext

from rocklash.commands.base import Command
from rocklash.commands.figures import KeepFigure
from rocklash.records.models import (
    Build,
    ClearanceSession,
    FigureChange,
    GapReading,
    JournalEntry,
    Membership,
    Observation,
    Part,
    Reading,
    SetupSide,
    ShimMove,
    ShimStock,
    ValveFit,
)
from rocklash.records.selectors.builds import build_or_404
from tests.rocklash.conftest import address, client_for

SHIM = "0.0005 measured"


def side(build: Build, name: str = "exhaust") -> SetupSide:
    return SetupSide.objects.get(setup__build=build, setup__role="proposed", side=name)


def shim(build: Build, text: str, seen: str = "none", **more: str) -> dict[str, str]:
    return {"holder": f"fit-{side(build).pk}", "key": "spring_shim", "text": text, "basis": "measured", "seen": seen, **more}


def undo(client: Client, build: Build, page: str = "springs/") -> Any:
    shown = client.get(address(build, page)).context["undoable"]
    return client.post(address(build, page), {"act": "undo", "entry": str(shown.pk)})


def test_a_form_sent_twice_is_done_once(petrel: Build, builder: Membership) -> None:
    client, where = client_for(builder), address(petrel, "lash/shelf/")
    for _ in range(2):
        assert client.post(where, {"sizes": "2.50 x 3", "once": "abc"}).status_code == 200
    assert ShimStock.objects.get().count == 3
    client.post(where, {"sizes": "2.50 x 2", "once": "abc"})  # the same form with other words is meant
    client.post(where, {"sizes": "2.50 x 3", "once": "def"})  # and so is another form with the same words
    assert ShimStock.objects.get().count == 8


def test_every_form_that_changes_something_carries_its_key(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    for page in ("engine/", "goal/", "cams/", "springs/", "springs/valves/", "room/measure/", "lash/", "lash/shelf/"):
        html = client.get(address(petrel, page)).content.decode()
        forms = [form for form in re.findall(r'<form method="post".*?</form>', html, re.DOTALL) if 'name="next"' not in form]
        assert forms
        keys = [re.findall(r'name="once" value="(\w{12})"', form) for form in forms]
        assert all(len(found) == 1 for found in keys), page
        assert len({found[0] for found in keys}) == len(keys)


def test_the_last_of_ones_own_is_undone_step_by_step(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    before = side(petrel).figures
    client.post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "0.5"))
    client.post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "0.75", SHIM))
    assert side(petrel).figures["spring_shim"]["typed"] == "0.75"
    assert undo(client, petrel).status_code == 200
    assert side(petrel).figures["spring_shim"]["typed"] == "0.5"
    assert undo(client, petrel).status_code == 200
    assert side(petrel).figures == before
    assert JournalEntry.objects.filter(verb="undo").count() == 2
    values = FigureChange.objects.filter(key="spring_shim").order_by("pk").values_list("typed", "value")
    assert [typed for typed, _ in values][-4:] == [
        "0.5",
        "0.75",
        "0.5",
        "",
    ]  # undoing is a change like any other, and stands in the history


def test_nobody_undoes_what_somebody_else_changed_since(petrel: Build, builder: Membership, owner: Membership) -> None:
    mine, theirs = client_for(builder), client_for(owner)
    mine.post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "0.5"))
    theirs.post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "0.75", SHIM))
    answer = undo(mine, petrel)
    assert answer.status_code == 409
    assert "changed again since" in answer.content.decode()
    assert side(petrel).figures["spring_shim"]["typed"] == "0.75"
    # another figure of the same row is another matter
    row = side(petrel)
    seen = f"{row.figures['installed_height']['value']:.9g} {row.figures['installed_height']['basis']}"
    mine.post(
        address(petrel, "springs/"),
        {"holder": f"fit-{row.pk}", "key": "installed_height", "text": "37.3", "basis": "measured", "seen": seen},
    )
    theirs.post(address(petrel, "springs/"), shim(petrel, "1.0", "0.00075 measured"))
    assert undo(mine, petrel).status_code == 200
    assert side(petrel).figures["installed_height"] == row.figures["installed_height"]
    assert side(petrel).figures["spring_shim"]["typed"] == "1.0"


def test_an_undo_that_was_seen_before_another_command_does_nothing(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    client.post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "0.5"))
    old = JournalEntry.objects.latest("pk").pk
    client.post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "0.75", SHIM))
    assert client.post(address(petrel, "springs/"), {"act": "undo", "entry": str(old)}).status_code == 409
    assert side(petrel).figures["spring_shim"]["typed"] == "0.75"


@pytest.mark.parametrize(
    ("station", "data", "model"),
    [
        ("lash/shelf/", {"sizes": "2.50 x 3; 2.525"}, ShimStock),
        ("lash/shelf/", {"sizes": "2.50 x 3; 2.525"}, ShimMove),
        ("room/over-rev/", {"act": "begin", "peak": "9600"}, None),
        ("springs/speed/", {"act": "seen", "side": "intake", "role": "stock", "speed": "7900"}, Observation),
        ("room/measure/", {"act": "read", "gap": "piston_to_valve", "way": "clay", "readings": "1.6", "valve": "EX"}, GapReading),
        (
            "lash/",
            {"act": "read", "valve": "EX", "goes": "0.2", "stops": "0.22", "shim": "2.5", "source": "micrometer", "seen": "0"},
            Reading,
        ),
        ("lash/", {"act": "manner", "aim": "loose end", "hours": "41.5"}, ClearanceSession),
        ("lash/stops/", {"firing": "1-2-3", "lash_note": "warm"}, None),
        ("lash/shelf/", {"act": "shape", "takes": "9.5 mm"}, None),
        ("engine/", {"act": "valve", "valve": "EX", "text": "0.12", "seen": "SEEN"}, None),
        ("goal/", {"act": "use", "use": "drag", "seen": "rescue"}, None),
        ("springs/valves/", {"act": "stand", "row": "ROW", "valve": "EX", "height": "37.4", "seen": "none"}, ValveFit),
        ("springs/valves/", {"act": "weigh", "row": "ROW", "valve": "EX", "slot": "valve", "mass": "42"}, None),
        ("cams/", {"act": "new", "row": "ROW", "name": "Own grind"}, Part),
        ("room/measure/", {"act": "rods", "word": "titanium", "seen": ""}, None),
    ],
)
def test_whatever_can_be_reversed_is_put_back_whole(
    petrel: Build, builder: Membership, station: str, data: dict[str, str], model: Any
) -> None:
    """Every row of every table is compared before and after: nothing is left of it but the journal, its histories, and the moment of the change."""
    place = petrel.engine.positions.filter(side="exhaust").first()
    assert place
    data = {
        key: str(place.pk)
        if text == "EX"
        else str(side(petrel).pk)
        if text == "ROW"
        else f"{place.deviation:.7f}"
        if text == "SEEN"
        else text
        for key, text in data.items()
    }
    client, before = client_for(builder), _everything()
    answer = client.post(address(petrel, station), data)
    assert answer.status_code in (200, 302), answer.content.decode()[-3000:]
    changed = _everything()
    assert changed != before
    assert model is None or changed[model.__name__] != before[model.__name__]
    assert undo(client, petrel, station).status_code == 200
    assert _everything() == before


def _everything() -> dict[str, Any]:
    from django.apps import apps

    left_out = {"JournalEntry", "FigureChange", "User"}
    found = {}
    for model in apps.get_app_config("records").get_models():
        if model.__name__ not in left_out:
            moving = {field.name for field in model._meta.concrete_fields if getattr(field, "auto_now", False)}
            names = [field.attname for field in model._meta.concrete_fields if field.name not in moving]
            found[model.__name__] = sorted(model._default_manager.values_list(*names), key=repr)
    return found


def test_what_is_signed_is_not_undone_and_not_stepped_over(petrel: Build, builder: Membership) -> None:
    client = client_for(builder)
    client.post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "0.5"))
    JournalEntry.objects.create(workshop=petrel.workshop, build=petrel, by=builder.user, verb="signed clearances", about=petrel.name)
    assert client.get(address(petrel, "springs/")).context["undoable"] is None


def test_the_history_of_a_figure_stands_beside_its_field(
    petrel: Build, builder: Membership, owner: Membership, stranger: Membership
) -> None:
    client = client_for(builder)
    client.post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "0.5"))
    client_for(owner).post(address(petrel, "springs/") + "?side=exhaust", shim(petrel, "30 thou", SHIM))
    where = f"/shop/{petrel.workshop.slug}/build/{petrel.pk}/figure/fit-{side(petrel).pk}/spring_shim/"
    page = client.get(address(petrel, "springs/") + "?side=exhaust").content.decode()
    assert 'aria-label="Spring shim added: what it was before"' in page
    assert f'data-history="/shop/{petrel.workshop.slug}/build/{petrel.pk}/figure/x/y/"' in page
    told = re.sub(r"<[^>]+>", " ", client.get(where).content.decode())
    assert "olga: 0.50 mm, measured (typed 0.5) → 0.76 mm, measured (typed 30 thou)" in told.replace("owner", "olga") or "→ 0.76 mm" in told
    assert "bert: not known → 0.50 mm" in told
    assert client_for(stranger).get(where).status_code == 404
    assert client.get(where.replace("spring_shim", "no_such")).status_code == 200
    assert client.get(where.replace(f"fit-{side(petrel).pk}", "fit-999999")).status_code == 404


def test_a_field_is_kept_with_one_load_one_refresh_and_few_queries(
    petrel: Build, builder: Membership, monkeypatch: pytest.MonkeyPatch
) -> None:
    client, where, loads = client_for(builder), address(petrel, "springs/") + "?side=exhaust", []
    client.get(where)
    data = shim(petrel, "0.5", once="k")
    from rocklash.commands import base
    from rocklash.desk import bench, page

    def counted(*args: Any) -> Build:
        loads.append(args)
        return build_or_404(*args)

    for module in (base, bench, page):
        monkeypatch.setattr(module, "build_or_404", counted)
    with CaptureQueriesContext(connection) as queries:
        answer = client.post(where, data, headers={"HX-Request": "true"})
    assert answer.status_code == 200
    asked = [each["sql"] for each in queries if not re.match(r"BEGIN|COMMIT|SAVEPOINT|RELEASE", each["sql"])]
    assert len(loads) == 1  # after the change: to keep a field needs no more than the build's row
    assert len(asked) <= 20, "\n".join(sql[:150] for sql in asked)
    assert len(gzip.compress(answer.content)) < 15_000  # bytes on the line; and not much more to morph than there was
    assert len(answer.content) < 63_000  # with the tables beside the drawings


def test_every_command_names_its_verb_and_writes_one_line(petrel: Build, builder: Membership) -> None:
    def everyone(kind: type[Command]) -> list[type[Command]]:
        return [each for sub in kind.__subclasses__() for each in (sub, *everyone(sub))]

    named = [
        kind for kind in everyone(Command) if not kind.__name__.startswith("_") and kind.__name__ not in ("SheetCommand", "JobCommand")
    ]
    assert len(named) > 35
    assert all(kind.verb for kind in named)
    count = JournalEntry.objects.count()
    outcome = KeepFigure(builder, build_or_404(petrel.workshop, petrel.pk), shim(petrel, "0.5")).run()
    assert outcome.state == "kept"
    assert JournalEntry.objects.count() == count + 1
    assert JournalEntry.objects.latest("pk").build_id == petrel.pk
