"""Two jobs of the scenario: Petrel's head build in the middle of its work, and Sanderling's spring change, done. Everything in it is invented."""

import io
from datetime import datetime, timedelta

from django.utils import timezone
from PIL import Image, ImageDraw

from rocklash.answers.job import plan_of
from rocklash.records.models import (
    Build,
    Finding,
    FindingPicture,
    Job,
    JobDetour,
    JobTick,
    JobWait,
    Membership,
    PartPlace,
    Workshop,
)  # fmt: skip
from valvetrain.studies.job.dates import mean_of
from valvetrain.studies.job.plan import Plan, PlanItem

_SLOWER = 1.15  # this workshop beside the usual minutes
_OPENS, _SHUTS = 8, 15


def load_jobs(shop: Workshop, member: Membership) -> None:
    """Both jobs, with a finding, a detour and a wait."""
    shop.hour_price, shop.schools = 48, {"hold": "rope", "keepers": "grease", "seal_order": "seal"}
    shop.save(update_fields=["hour_price", "schools"])
    _petrel(Build.objects.get(workshop=shop, name="Petrel 1498"), member)
    _sanderling(Build.objects.get(workshop=shop, name="Sanderling 449"), member)


def _begun(build: Build, member: Membership, kind: str, ago: int, **spec: object) -> Job:
    usual = {
        "here": "machine",
        "in_frame": False,
        "drive": "chain",
        "held": "caps",
        "lapping": "hand",
        "asks": ["runs"],
        **build.workshop.schools,
    }
    job = Job.objects.create(build=build, kind=kind, spec=usual | spec, by=member.user)
    job.begun_at = timezone.now() - timedelta(days=ago)
    job.save(update_fields=["begun_at"])
    return job


def _work(job: Job, member: Membership, items: list[tuple[PlanItem, int]]) -> None:
    """Tick items (each at its first so many places) one after the other, in working hours."""
    now, rows, times = _opened(job.begun_at), [], []
    for item, places in items:
        for place in (item.places or ("",))[:places]:
            now += timedelta(seconds=_SLOWER * mean_of(item.step.least, item.step.most))
            if item.step.waits or not _OPENS <= timezone.localtime(now).hour < _SHUTS:
                now = _opened(now + timedelta(hours=12))
            rows.append(JobTick(job=job, key=item.key, place=place, by=member.user))
            times.append(now)
    made, latest = JobTick.objects.bulk_create(rows), timezone.now() - timedelta(minutes=8)
    over = max(now - latest, timedelta())
    for row, moment in zip(made, times, strict=True):
        row.at = max(moment - over, job.begun_at)
    JobTick.objects.bulk_update(made, ["at"])


def _opened(moment: datetime) -> datetime:
    return timezone.localtime(moment).replace(hour=_OPENS, minute=0, second=0, microsecond=0)


def _petrel(build: Build, member: Membership) -> None:
    job = _begun(
        build, member, "full", 11, has=["craft", "liquid", "passes", "ratchet"], renewed=["cam", "retainer", "spring"], in_frame=True, asks=["boost", "revs", "runs"]
    )  # fmt: skip
    today = timezone.localdate()
    job.promised, job.helper = today + timedelta(days=12), {"rows": 2, "columns": 4, "thrust": "drive", "layout": "middle"}
    job.save(update_fields=["promised", "helper"])
    detour = JobDetour.objects.create(
        job=job, number=1, trouble="stud", at_key="o23", note="exhaust flange, second from aft", by=member.user
    )
    plan = plan_of(job, build, [detour])
    assert isinstance(plan, Plan)
    done: list[tuple[PlanItem, int]] = []
    for item in plan.items:
        if item.step.id == "a07":
            break
        done.append((item, item.times))
    _work(job, member, done)
    keepers = next(item for item in plan.items if item.step.id == "a07")
    for number, place in enumerate(
        [each for each in keepers.places if each != "EX 3 aft"][:7]
    ):  # the one with the crack waits for its retainer
        row = JobTick.objects.create(job=job, key=keepers.key, place=place, by=member.user)
        JobTick.objects.filter(pk=row.pk).update(at=timezone.now() - timedelta(minutes=7 - number))
    places = {place.name: place for place in build.engine.positions.all()}
    found = Finding.objects.create(
        build=build, job=job, number=1, part="retainer", position=places["EX 3 aft"], sign="ret-hair", grade=1,
        words="3 mm long, on this one only; the dye bleeds. Set aside.", measured="cone 0.04 mm wider than its neighbours", by=member.user,
    )  # fmt: skip
    _picture(found, member)
    Finding.objects.create(
        build=build, job=job, number=2, part="valve", position=places["EX 2 aft"], sign="val-cup", grade=2, words="seat cut deeper than asked, see the machine shop's sheet",
        measured="protrusion 38.52 mm", by=member.user,
    )  # fmt: skip
    JobWait.objects.create(
        job=job, what="Retainer for EX 3 aft", kind="parts", key="a08" if any(item.key == "a08" for item in plan.items) else "a09", first=today + timedelta(days=3),
        last=today + timedelta(days=5), price=38, by=member.user,
    )  # fmt: skip
    PartPlace.objects.create(
        build=build, slot="spring", position=places["EX 2 aft"], came_from="IN 1 fore", way="as it was", why="strongest spring to the deepest seat", by=member.user
    )  # fmt: skip


def _picture(found: Finding, member: Membership) -> None:
    """A drawing in place of a photograph: retainer from below, with the line at its cone."""
    picture = Image.new("RGB", (900, 700), (206, 200, 184))
    pen = ImageDraw.Draw(picture)
    for radius, shade in ((300, (120, 124, 128)), (250, (150, 154, 158)), (120, (90, 94, 98)), (92, (34, 38, 42))):
        pen.ellipse((450 - radius, 350 - radius, 450 + radius, 350 + radius), fill=shade)
    pen.line((534, 300, 556, 286, 570, 290, 588, 274), fill=(160, 42, 29), width=6)
    out = io.BytesIO()
    picture.save(out, "JPEG", quality=84)
    FindingPicture.objects.create(finding=found, by=member.user, caption="from below, dyed", width=900, height=700, data=out.getvalue())


def _sanderling(build: Build, member: Membership) -> None:
    job = _begun(
        build,
        member,
        "springs",
        40,
        has=["liquid", "ratchet", "wheels"],
        renewed=["spring", "seal"],
        in_frame=True,
        asks=["runs", "titanium"],
        lapping="none",
    )
    plan = plan_of(job, build)
    assert isinstance(plan, Plan)
    _work(job, member, [(item, item.times) for item in plan.items])
    Finding.objects.create(
        build=build, job=job, number=1, part="spring", position=build.engine.positions.filter(side="intake").first(), sign="spr-flank", grade=2,
        words="inner coils only", settled="renewed with its neighbours", by=member.user,
    )  # fmt: skip
    job.closed_at = job.begun_at + timedelta(days=4)
    job.save(update_fields=["closed_at"])
