"""Load the scenario: Skerrow Engine Shed, its people, engines and shelf. Everything in it is invented."""

import json
from datetime import timedelta
from pathlib import Path

from django.db import transaction
from django.utils import timezone

from rocklash.answers.own_results import taken_in
from rocklash.commands.builds import keep_record
from rocklash.demo.jobs import load_jobs
from rocklash.demo.logbook import load_season
from rocklash.demo.proof import load_proof
from rocklash.demo.shelf_parts import load_parts
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import (
    Build,
    CamCandidate,
    ClearanceSession,
    Engine,
    FamilyNote,
    Membership,
    OverRevCase,
    Part,
    Reading,
    Role,
    Search,
    SetupSide,
    ShimStock,
    ShopOrder,
    ShopReading,
    SisterEngine,
    SisterPart,
    User,
    Workshop,
)
from valvetrain.formats import build_file
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.figure import Basis
from valvetrain.quantities import from_unit

HERE = Path(__file__).parent
PASSWORD = "harbour-light"
PEOPLE = (("owner", Role.OWNER), ("builder", Role.BUILDER), ("helper", Role.VIEWER))
ENGINES = (
    ("dunlin_598", "superkart twin, 8 valves, finger followers, shims on the tip"),
    ("plover_305", "side-valve tractor single, stems ground to length"),
    ("turnstone_207", "push-rod kart single with lash caps"),
    ("avocet_636", "moorland trail single, 4 valves, one roller rocker over two intakes, a forked one over two exhausts, screws"),
    ("knot_389", "pump and pulling-kart single, rockers with adjusting screws"),
    ("sanderling_449", "ice-oval single, 4 valves, titanium intakes, shim under bucket"),
    ("petrel_1498", "supercharged rescue craft, triple, 12 valves, bucket with shim under"),
)
# Dunlin's last sheet, mm: valve, goes, does not go, shim, then the re-check's two blades and shim
_DUNLIN = (
    ("EX 1 left", 0.14, 0.16, 2.325, 0.19, 0.21, 2.250), ("EX 1 right", 0.19, 0.21, 2.300, 0.19, 0.21, 2.300),
    ("EX 2 left", 0.18, 0.20, 2.350, 0.18, 0.20, 2.350), ("EX 2 right", 0.16, 0.17, 2.275, 0.20, 0.21, 2.225),
    ("IN 1 left", 0.12, 0.14, 2.400, 0.12, 0.14, 2.400), ("IN 1 right", 0.08, 0.09, 2.425, 0.12, 0.13, 2.375),
    ("IN 2 left", 0.11, 0.13, 2.450, 0.11, 0.13, 2.450), ("IN 2 right", 0.12, 0.14, 2.400, 0.12, 0.14, 2.400),
)  # fmt: skip


_SHELF = ((2.450, 1), (2.475, 2), (2.500, 1), (2.525, 1), (2.560, 1), (2.600, 2), (2.650, 1), (2.700, 1), (2.745, 1))


def is_loaded() -> bool:
    """Whether the demo workshop is there."""
    return Workshop.objects.filter(slug="skerrow").exists()


@transaction.atomic
def remove() -> None:
    """Take the demo workshop and its people out again."""
    Reading.objects.filter(session__build__workshop__slug="skerrow").delete()
    Build.objects.filter(workshop__slug="skerrow").delete()
    Engine.objects.filter(workshop__slug="skerrow").delete()
    Workshop.objects.filter(slug="skerrow").delete()
    User.objects.filter(username__in=[name for name, _ in PEOPLE]).delete()


@transaction.atomic
def load() -> None:
    """Make the demo workshop from the files beside this one."""
    shop = Workshop.objects.create(name="Skerrow Engine Shed", slug="skerrow")
    members = {}
    for name, role in PEOPLE:
        user = User.objects.create_user(username=name, password=PASSWORD)
        members[name] = Membership.objects.create(workshop=shop, user=user, role=role)
    for file, description in ENGINES:
        record = build_file.read((HERE / "builds" / f"{file}.json").read_text(encoding="utf-8"))
        keep_record(members["owner"], record, description=description)
    _load_shelf(shop)
    load_parts(shop)
    _load_search(shop, members["builder"])
    _load_machine_shop(shop, members["builder"])
    _load_dunlin_sheet(members["builder"])
    load_season(members["builder"])
    load_jobs(shop, members["builder"])
    load_proof(shop, members["builder"])
    for size, count in _SHELF:
        ShimStock.objects.create(workshop=shop, size=size / 1e3, shape="9.5 mm round", count=count)
    dunlin = Build.objects.get(workshop=shop, name="Dunlin 598")
    Workshop.objects.filter(pk=shop.pk).update(own=taken_in(shop))
    OverRevCase.objects.create(
        build=dunlin, before=10900 / 60, gear_from=1.52, gear_to=1.87, note="third into second, end of the ice straight", by=members["builder"].user
    )  # fmt: skip
    row = SetupSide.objects.get(setup__build__workshop=shop, setup__build__name="Dunlin 598", setup__role="proposed", side="intake")
    CamCandidate.objects.create(setup_side=row, cam=Part.objects.get(workshop=shop, name="Sister 640 intake cam"), letter="B")


# Petrel's exhaust seats came back cut: protrusion before and back, contact, run-out, mm
_CUT = (
    ("EX 1 fore", 38.12, 38.26, 1.25, 0.02), ("EX 1 aft", 38.10, 38.24, 1.20, 0.03), ("EX 2 fore", 38.15, 38.30, 1.30, 0.02),
    ("EX 2 aft", 38.18, 38.52, 1.65, 0.06), ("EX 3 fore", 38.11, 38.27, 1.25, 0.03), ("EX 3 aft", 38.14, 38.28, 1.20, 0.02),
)  # fmt: skip


def _load_machine_shop(shop: Workshop, member: Membership) -> None:
    """A visit to the machine shop that came back: one valve's seat is not as asked."""
    build, now = Build.objects.get(workshop=shop, name="Petrel 1498"), timezone.now()
    order = ShopOrder.objects.create(
        build=build, shop="Marram Heads", works=["clean", "guides_hone", "seats_cut"], note="Exhaust side only. Renumber nothing.", by=member.user,
        sent_at=now - timedelta(days=9), back_at=now - timedelta(days=1),
    )  # fmt: skip
    places = {place.name: place for place in build.engine.positions.all()}
    for name, before, back, contact, runout in _CUT:
        for measure, stage, value in (
            ("protrusion", "before", before),
            ("protrusion", "back", back),
            ("contact", "back", contact),
            ("runout", "back", runout),
        ):
            ShopReading.objects.create(order=order, position=places[name], measure=measure, stage=stage, value=value / 1e3, by=member.user)


def _load_search(shop: Workshop, member: Membership) -> None:
    """A search prepared on Petrel, what its family is known for, and a sister with the same springs."""
    build = Build.objects.get(workshop=shop, name="Petrel 1498")
    Engine.objects.filter(pk=build.engine_id).update(family="1498 castings")
    for side, budget in (("exhaust", "480.00"), ("intake", "520.00")):
        Search.objects.create(
            build=build, side=side, budget=budget, days=30, places=["outer", "inner", "retainer", "keepers", "follower", "spring_shim"],
            weights=[3.0, 1.0, 3.0, 2.0, 1.0], by=member.user,
        )  # fmt: skip
    sister = SisterEngine.objects.create(
        engine=build.engine, name="Petrel 1498 works boat", limiter=7950 / 60, interval=150 * 3600.0, same_springs=True,
        evidence="spring numbers compared, loads of two tested alike", by=member.user,
    )  # fmt: skip
    for what, own, other, finding, evidence in (
        ("Exhaust cam", "1498-E", "1498-EW", "fits", "turned by hand in our head, clearances set"),
        ("Stem seal", "S-1498", "S-1498W", "same", "same drawing, another factory"),
        ("Cam carrier", "CC-20", "CC-24", "not", "second oil drilling is missing"),
    ):
        SisterPart.objects.create(
            sister=sister, what=what, own_number=own, sister_number=other, finding=finding, evidence=evidence, by=member.user
        )
    for topic, text in (
        ("springs", "Springs are always changed from 0.5 bar on: the stock ones let the intakes lift off their seats."),
        ("oil", "The exhaust carrier feeds its buckets by one drilling: look through it before the cam goes in."),
        ("access", "The rear plug wants the blower off; plan half an hour."),
    ):
        FamilyNote.objects.create(workshop=shop, family="1498 castings", topic=topic, text=text, by=member.user)


def _load_shelf(shop: Workshop) -> None:
    for row in json.loads((HERE / "shelf.json").read_text(encoding="utf-8")):
        owner = Owner(row["kind"])
        figures = {
            key: stored_figure(
                owner, key, from_unit(value, FIGURES[owner, key].kind, unit), Basis.CARD, typed=f"{value} {unit}", unit=unit, by="owner"
            )
            for key, (value, unit) in row["figures"].items()
        }
        Part.objects.create(workshop=shop, kind=row["kind"], name=row["name"], claim=row["claim"], figures=figures)


def _load_dunlin_sheet(member: Membership) -> None:
    build = Build.objects.get(workshop=member.workshop, name="Dunlin 598")
    places = {place.name: place for place in build.engine.positions.all()}
    session = ClearanceSession.objects.create(
        build=build, started_by=member.user, rechecking=True, signed_by=member.user, signed_at=timezone.now(), note="Before the season"
    )
    for name, goes, stops, shim, goes_after, stops_after, shim_after in _DUNLIN:
        for recheck, low, high, size in ((False, goes, stops, shim), (True, goes_after, stops_after, shim_after)):
            Reading.objects.create(
                session=session, position=places[name], recheck=recheck, goes=low / 1e3, goes_typed=f"{low:.2f}", stops=high / 1e3,
                stops_typed=f"{high:.2f}", shim=size / 1e3, shim_typed=f"{size:.3f}", shim_source="micrometer", by=member.user,
            )  # fmt: skip
