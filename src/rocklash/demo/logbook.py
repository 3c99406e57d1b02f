"""A season of the Sanderling and what the other engines ran: sheets, rides, care, springs, rules. Everything in it is invented."""

from datetime import timedelta

from django.utils import timezone

from rocklash.records.figure_column import stored_figure
from rocklash.records.models import (
    Build,
    CareEntry,
    ClearanceSession,
    DueRule,
    Engine,
    LogNote,
    Membership,
    Part,
    PartStart,
    Reading,
    RunEntry,
    SetupSide,
    SpringLog,
)
from valvetrain.parts.catalogue import Owner
from valvetrain.parts.figure import Basis

# A season of the Sanderling: hours, then clearance found and left of EX left, EX right, IN left, IN right, mm; shims change where they differ
_SEASON = (
    (0.0, ((0.22, 0.22), (0.21, 0.21), (0.15, 0.15), (0.15, 0.15))), (9.0, ((0.22, 0.22), (0.21, 0.21), (0.13, 0.13), (0.13, 0.13))),
    (17.5, ((0.22, 0.22), (0.21, 0.21), (0.11, 0.16), (0.12, 0.14))), (26.0, ((0.21, 0.21), (0.21, 0.21), (0.14, 0.14), (0.12, 0.15))),
    (38.0, ((0.21, 0.21), (0.20, 0.20), (0.12, 0.14), (0.13, 0.13))), (42.0, ((0.21, 0.21), (0.20, 0.20), (0.13, 0.13), (0.07, 0.14))),
)  # fmt: skip
_DAYS_AN_HOUR, _SINCE_LAST = 3.0, 16  # a race engine runs an hour in three days; days since its last sheet
_RIDES = (
    (15, 1.5, "sand, first heat"),
    (12, 1.2, ""),
    (9, 2.0, "two heats, dust"),
    (5, 1.4, "practice"),
    (2, 1.1, "felt flat above 10,000"),
)


def load_season(member: Membership) -> None:
    """Sheets, rides, care, springs on the tester, rules, a note, and what is due on the other engines."""
    build = Build.objects.get(workshop=member.workshop, name="Sanderling 449")
    places = sorted(build.engine.positions.all(), key=lambda place: (place.side != "exhaust", place.place))
    shims = {place.pk: 2.500 for place in places}
    last = _SEASON[-1][0]
    for hours, row in _SEASON:
        signed = timezone.now() - timedelta(days=_SINCE_LAST + _DAYS_AN_HOUR * (last - hours))
        session = ClearanceSession.objects.create(
            build=build, started_by=member.user, rechecking=True, hours=hours, signed_by=member.user, signed_at=signed
        )
        for place, (found, left) in zip(places, row, strict=True):
            fitted = round(shims[place.pk] + found - left, 3)
            for recheck, gap, shim in ((False, found, shims[place.pk]), (True, left, fitted)):
                Reading.objects.create(
                    session=session, position=place, recheck=recheck, goes=(gap - 0.01) / 1e3, goes_typed=f"{gap - 0.01:.2f}",
                    stops=(gap + 0.01) / 1e3, stops_typed=f"{gap + 0.01:.2f}", shim=shim / 1e3, shim_typed=f"{shim:.3f}", shim_source="micrometer",
                    by=member.user,
                )  # fmt: skip
            shims[place.pk] = fitted
    today = timezone.localdate()
    for days, hours, note in _RIDES:
        RunEntry.objects.create(build=build, made_on=today - timedelta(days=days), seconds=3600.0 * hours, note=note, by=member.user)
    for what, days, at in (("oil and filter", 12, 44.7), ("cam chain and tensioner", 142, 4.0)):
        CareEntry.objects.create(build=build, what=what, made_on=today - timedelta(days=days), seconds=3600.0 * at, by=member.user)
    _springs(build, member)
    _rules_and_owners(build, member)
    _others(member)


def _springs(build: Build, member: Membership) -> None:
    """The springs of the one on the tester new, and twice since; their wire is told."""
    row = SetupSide.objects.get(setup__build=build, setup__role="proposed", side="intake")
    assert row.outer_spring_id
    spring = Part.objects.get(pk=row.outer_spring_id)
    told = {"wire_diameter": 3.6, "mean_diameter": 21.6}
    figures = {
        key: stored_figure(Owner.SPRING, key, value / 1e3, Basis.MEASURED, typed=f"{value} mm", unit="mm", by="builder")
        for key, value in told.items()
    }
    figures["total_coils"] = stored_figure(Owner.SPRING, "total_coils", 6.2, Basis.MEASURED, typed="6.2", unit="", by="builder")
    Part.objects.filter(pk=spring.pk).update(figures=spring.figures | figures, facts=spring.facts | {"peened": "yes"}, service_hours=60.0)
    for days, used, losses in ((150, False, (0.0,)), (78, True, (0.021, 0.024, 0.019, 0.027)), (6, True, (0.034, 0.041, 0.032, 0.044))):
        rows = [
            f"{number},{height},{(215.0 + 39.0 * (33.8 - height)) * (1.0 - lost):.1f}"
            for number, lost in enumerate(losses, 1)
            for height in (33.8, 29.0, 24.5)
        ]
        log = SpringLog.objects.create(
            part=spring, text="spring,height mm,load N\n" + "\n".join(rows), used=used, readings=len(rows), by=member.user
        )
        SpringLog.objects.filter(pk=log.pk).update(at=timezone.now() - timedelta(days=days))
    for side in ("exhaust", "intake"):
        PartStart.objects.create(
            build=build, part=spring, side=side, made_on=timezone.localdate() - timedelta(days=145), had=0.0, by=member.user
        )


def _rules_and_owners(build: Build, member: Membership) -> None:
    DueRule.objects.create(
        workshop=member.workshop,
        build=build,
        what="titanium valves",
        least=45.0,
        most=45.0,
        unit="h",
        page="5-12",
        does="renew the intakes",
        by=member.user,
    )
    DueRule.objects.create(
        workshop=member.workshop, what="coolant", least=2.0, most=2.0, unit="season", does="renew it and look at the hoses", by=member.user
    )
    for name, owner in (("Sanderling 449", "Runa, ice oval"), ("Dunlin 598", "Tormod, superkart"), ("Petrel 1498", "Skerrow lifeboat house"), ("Knot 389", "Aud, harbour pump")):  # fmt: skip
        Engine.objects.filter(builds__name=name, workshop=member.workshop).update(owner=owner)
    LogNote.objects.create(
        build=build,
        made_on=timezone.localdate() - timedelta(days=2),
        words="Felt flat above 10,000 on the last heat; plug light, no metal in the filter.",
        by=member.user,
    )


# Hours and care of the other engines: name, days ago with hours, what was done how many days ago at how many hours
_OTHERS = (
    ("Knot 389", ((40, 6.0), (33, 7.5), (21, 5.0), (9, 6.5)), (("oil and filter", 45, 0.0),)),
    ("Turnstone 207", ((30, 1.2), (23, 1.0), (16, 1.4), (9, 1.1)), (("oil and filter", 31, 0.0), ("clearances", 31, 0.0))),
    ("Avocet 636", ((60, 8.0), (44, 10.0), (30, 9.0), (12, 11.0)), (("oil and filter", 400, 0.0),)),
)


def _others(member: Membership) -> None:
    today = timezone.localdate()
    for name, rides, cared in _OTHERS:
        build = Build.objects.get(workshop=member.workshop, name=name)
        for days, hours in rides:
            RunEntry.objects.create(build=build, made_on=today - timedelta(days=days), seconds=3600.0 * hours, by=member.user)
        for what, days, at in cared:
            CareEntry.objects.create(build=build, what=what, made_on=today - timedelta(days=days), seconds=3600.0 * at, by=member.user)
