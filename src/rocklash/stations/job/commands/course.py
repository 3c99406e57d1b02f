"""What a job waits for, what goes wrong in it, until when it is promised, and how a workshop works."""

from datetime import timedelta

from django.shortcuts import get_object_or_404
from django.utils import timezone

from rocklash.commands.base import Command, Refused, number_of
from rocklash.records.models import JobDetour, JobTick, JobWait, Workshop
from rocklash.stations.job.commands.plan import JobCommand
from rocklash.stations.job.forms import HabitsForm, PromiseForm, WaitForm
from valvetrain.studies.job.knowledge import schools, troubles
from valvetrain.studies.job.plan import PlanItem

_MOST_WAITS, _MOST_DETOURS = 40, 20


class KeepPromise(JobCommand):
    """Keep the day the owner was promised."""

    verb = "promised day"
    form = PromiseForm

    def standing(self) -> object:
        """The day that is promised."""
        return [self.told("promised")]

    def apply(self) -> None:
        """An empty day promises none."""
        job, day = self.open_job(), self.cleaned["promised"]
        if job.promised == day:
            return
        self.note("", str(job.promised or ""), str(day or ""))
        self.ledger.set(job, promised=day)


class AddWait(JobCommand):
    """Wait for something from outside."""

    verb = "wait begun"
    form = WaitForm

    def apply(self) -> None:
        """It holds up the step named, or only the end of the job."""
        job, plan = self.job()
        told = self.cleaned
        if told["key"] and told["key"] not in {item.key for item in plan.items}:
            raise Refused(fields={"key": "This step is not part of the plan: choose one that is."})
        if JobWait.objects.filter(job=job, got_on=None).count() >= _MOST_WAITS:
            raise Refused(f"This job waits for {_MOST_WAITS} things already: say which of them have come.")
        last = told["last"] or told["first"]
        self.made = self.ledger.make(
            JobWait, job=job, what=told["what"], kind=told["kind"], key=told["key"], first=told["first"], last=last, price=told["price"],
            by=self.member.user,
        )  # fmt: skip
        self.note(told["what"], "", f"{told['first']:%d %b} to {last:%d %b}")


class _OfOneWait(JobCommand):
    def wait(self) -> JobWait:
        """The wait that was named, locked; of the job under way."""
        job = self.open_job()
        return get_object_or_404(JobWait.objects.select_for_update(no_key=True, of=("self",)), job=job, pk=number_of(self.text("wait")))


class GotWait(_OfOneWait):
    """It has come."""

    verb = "wait ended"

    def apply(self) -> None:
        """Today."""
        row = self.wait()
        if row.got_on is None:
            self.ledger.set(row, got_on=timezone.localdate())
            self.note(row.what, "waited for", "here")


class DropWait(_OfOneWait):
    """Wait for it no more."""

    verb = "wait dropped"

    def apply(self) -> None:
        """The row goes."""
        row = self.wait()
        self.note(row.what, "waited for", "")
        self.ledger.drop(row)


class StrikeTrouble(JobCommand):
    """Something went wrong: its own steps go in before the step at hand, and what it waits for moves the date."""

    verb = "trouble"

    def apply(self) -> None:
        """`trouble`, at the step `key`, with a `note`."""
        job, plan = self.job()
        trouble = troubles().get(self.text("trouble", 12))
        if trouble is None:
            raise Refused("Say what went wrong: choose one of the list.")
        item: PlanItem = self.item(plan)
        count = JobDetour.objects.filter(job=job).count()
        if count >= _MOST_DETOURS:
            raise Refused(f"This job has {_MOST_DETOURS} troubles already.")
        last = JobDetour.objects.filter(job=job).order_by("-number").values_list("number", flat=True).first()
        number = (last or 0) + 1
        self.made = self.ledger.make(
            JobDetour, job=job, number=number, trouble=trouble.id, at_key=item.key, note=self.text("note", 200), by=self.member.user
        )  # fmt: skip
        today = timezone.localdate()
        if trouble.days[1]:
            low, high = (today + timedelta(days=int(each)) for each in trouble.days)
            self.ledger.make(
                JobWait, job=job, what=trouble.name, kind="shop" if trouble.days[1] > 4 else "other", key=item.key, first=low, last=high, by=self.member.user
            )  # fmt: skip
        self.note(item.step.act, "", trouble.name)


class DropTrouble(JobCommand):
    """It was none after all: its steps go, and what was ticked of them."""

    verb = "trouble undone"

    def apply(self) -> None:
        """The one of `detour`; a wait that came with it is dropped by itself."""
        job = self.open_job()
        row = get_object_or_404(JobDetour.objects.select_for_update(no_key=True, of=("self",)), job=job, pk=number_of(self.text("detour")))
        known = troubles().get(row.trouble)
        self.note(known.name if known else row.trouble, "struck", "")
        for tick in JobTick.objects.select_for_update(no_key=True, of=("self",)).filter(job=job, key__startswith=f"t{row.number}."):
            self.ledger.drop(tick)
        self.ledger.drop(row)


class KeepHabits(Command):
    """How this workshop works: hours a day, what an hour costs, its schools. They stand in every job begun from now on."""

    verb = "ways of this workshop"
    form = HabitsForm
    judged = refreshes = locks_build = False
    locks_shop = True

    def standing(self) -> object:
        """The ways that stand."""
        return Workshop.objects.values_list("day_hours", "hour_price", "schools").get(pk=self.member.workshop_id)

    def apply(self) -> None:
        """Schools by name, beside hours and price."""
        shop = Workshop.objects.select_for_update(no_key=True).get(pk=self.member.workshop_id)
        told = self.cleaned
        ways = {name: told[name] for name in schools() if told.get(name)}
        before = (shop.day_hours, shop.hour_price, shop.schools)
        if before == (told["day_hours"], told["hour_price"], ways):
            return
        self.note("", f"{shop.day_hours:g} h a day", f"{told['day_hours']:g} h a day")
        self.ledger.set(shop, day_hours=told["day_hours"], hour_price=told["hour_price"], schools=ways)
