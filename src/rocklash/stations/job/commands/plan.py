"""Changes of a job's plan: begun, a step ticked or taken back, put elsewhere, done in another way, closed."""

from typing import Any

from django.utils import timezone

from rocklash.answers.job import done_of, plan_of
from rocklash.commands.base import Command, Refused
from rocklash.records.models import Job, JobOverride, JobTick
from rocklash.records.selectors.job import detours_of, ticks_of
from rocklash.stations.job.forms import JobForm
from valvetrain.studies.job.facts import KIND_WORDS, JobKind
from valvetrain.studies.job.knowledge import schools
from valvetrain.studies.job.plan import Broken, Plan, PlanItem, newly_broken, open_engine, unaccounted, waiting_for
from valvetrain.studies.job.steps import steps

_LONGEST = 200
LISTS = ("renewed", "has", "asks")


class JobCommand(Command):
    """A command on the job under way; nothing of it moves a check of the build, nor the build's own row."""

    judged = refreshes = False

    def open_job(self) -> Job:
        """The open job, locked. Raises Refused where there is none."""
        found = Job.objects.select_for_update(no_key=True).filter(build=self.subject, closed_at=None).first()
        if found is None:
            raise Refused("No job is under way: begin one first.", conflict=True)
        return found

    def told(self, column: str) -> object:
        """One column of the open job as it stands, not locked; None where no job is under way."""
        return Job.objects.filter(build=self.subject, closed_at=None).values_list(column, flat=True).first()

    def job(self) -> tuple[Job, Plan]:
        """The same with its plan. Raises Refused where there is none."""
        found = self.open_job()
        plan = plan_of(found, self.subject, detours_of(found))
        if isinstance(plan, str):
            raise Refused(plan)
        return found, plan

    def item(self, plan: Plan, name: str = "key") -> PlanItem:
        """The line of the plan that was named. Raises Refused where it is not there any more."""
        item = next((each for each in plan.items if each.key == self.text(name, 12)), None)
        if item is None:
            raise Refused("This step is not part of the plan any more: reload the page.", conflict=True)
        return item


class BeginJob(JobCommand):
    """Begin a job; its steps are composed from what is told."""

    verb = "job begun"
    form = JobForm
    refreshes = True

    def apply(self) -> None:
        """One is under way at a time."""
        if Job.objects.filter(build=self.subject, closed_at=None).exists():
            raise Refused("A job is under way already: close it first.", conflict=True)
        told = self.cleaned
        spec: dict[str, Any] = {key: value for key, value in told.items() if key not in ("kind", "promised")}
        spec |= {key: sorted(told[key]) for key in LISTS}
        self.made = self.ledger.make(
            Job, build=self.subject, kind=told["kind"], spec=spec, promised=told["promised"], by=self.member.user
        )  # fmt: skip
        plan = plan_of(self.made, self.subject)
        if isinstance(plan, str):
            raise Refused(plan)
        self.note("", "", f"{KIND_WORDS[JobKind(told['kind'])]}, {len(plan.items)} steps")


class Tick(JobCommand):
    """Tick a step at one place, or at all that are left; against a rule only with a word why."""

    verb = "step done"

    def apply(self) -> None:
        """`key` is the item, `place` one of its places or empty for all, `said` what was read; `reason` overrides, `sure` goes against a rule that
        costs no more than work."""
        job, plan = self.job()
        item = self.item(plan)
        places = item.places or ("",)
        asked = self.text("place", 32)
        if asked and asked not in places:
            raise Refused(f"{item.step.act}: there is no {asked} here.")
        ticks = ticks_of(job)
        there = {tick.place for tick in ticks if tick.key == item.key}
        wanted = [place for place in ([asked] if asked else places) if place not in there]
        if not wanted:
            return
        self._keep_rules(job, plan, item, done_of(ticks))
        for place in wanted:
            self.ledger.make(JobTick, job=job, key=item.key, place=place, said=self.text("said", 120), by=self.member.user)
        self.note(item.step.act, "", ", ".join(place for place in wanted if place) or "done")

    def _keep_rules(self, job: Job, plan: Plan, item: PlanItem, done: dict[str, int]) -> None:
        reason, sure = self.text("reason", _LONGEST), self.text("sure") == "yes"
        broken = waiting_for(plan, item.key, done)
        missing = unaccounted(plan, done, item.key)
        if missing:
            told = ", ".join(f"{each.missing} {each.what}" for each in missing)
            if not reason:
                raise Refused(
                    f"Not accounted for yet: {told}. What is missing is inside, or still lies outside. Look, or write down why it is right."
                )
            self.ledger.make(JobOverride, job=job, rule="accounted", key=item.key, reason=reason, by=self.member.user)
        self.against(job, item.key, broken, reason, sure=sure, plan=plan)

    def against(self, job: Job, key: str, broken: list[Broken], reason: str, *, sure: bool, plan: Plan) -> None:
        """Go against rules: with a reason where somebody is hurt or the engine breaks, else when it is said to be known. Raises Refused with which and why."""
        if not broken:
            return
        grave = any(each.rule.stop for each in broken)
        if grave and not reason:
            raise Refused(f"{rule_words(broken, plan)} Write down why, if you go against it.")
        if not grave and not (sure or reason):
            raise Refused(f"{rule_words(broken, plan)} Say that you know, if you go against it.")
        for rule in dict.fromkeys(each.rule.id for each in broken):
            self.ledger.make(JobOverride, job=job, rule=rule, key=key, reason=reason, by=self.member.user)


def rule_words(broken: list[Broken], plan: Plan) -> str:
    """Which steps come first, and why."""
    known = steps()
    acts = {item.key: item.step.act for item in plan.items if item.detour}
    grave = sorted(broken, key=lambda each: not each.rule.stop)
    first = list(dict.fromkeys(acts.get(each.earlier) or known[each.earlier].act for each in grave))[:3]
    return f"First: {'; '.join(first)}. {grave[0].rule.why}"


class TakeBack(JobCommand):
    """Take a tick back, at one place or everywhere."""

    verb = "step undone"

    def apply(self) -> None:
        """`key` and `place` as they were ticked; no place means all of the step's."""
        job = self.open_job()
        key, place = self.text("key", 12), self.text("place", 32)
        found = JobTick.objects.select_for_update(of=("self",), no_key=True).filter(job=job, key=key)
        rows = list(found.filter(place=place) if place else found)
        for row in rows:
            self.ledger.drop(row)
        if rows:
            step = steps().get(key.partition("-")[0])
            self.note(step.act if step else key, ", ".join(row.place for row in rows if row.place) or "done", "")


class MoveStep(Tick):
    """Put a step before another one; against a rule only as a tick would be."""

    verb = "step put elsewhere"

    def apply(self) -> None:
        """`key` goes before `before`."""
        job, plan = self.job()
        item, before = self.item(plan), self.item(plan, "before")
        if item.key == before.key:
            return
        broken = newly_broken(plan, item.key, before.key)
        self.against(job, item.key, broken, self.text("reason", _LONGEST), sure=self.text("sure") == "yes", plan=plan)
        self.ledger.set(job, moves=[*job.moves, [item.key, before.key]][-60:])
        self.note(item.step.act, "", f"before: {before.step.act}")


class SetWay(JobCommand):
    """Do something in another way for the rest of this job."""

    verb = "way of working"

    def standing(self) -> object:
        """The way of this school, in this job."""
        found = self.told("spec")
        return found.get(self.text("school", 16), "") if isinstance(found, dict) else ""

    def apply(self) -> None:
        """`school` and `way`."""
        job, known = self.open_job(), schools()
        name = self.text("school", 16)
        if name not in known or self.text("way", 16) not in {way.id for way in known[name].ways}:
            raise Refused("There is no such way of working: choose one that is offered.")
        way = self.text("way", 16)
        before = job.spec.get(name, known[name].ways[0].id)
        if way == before:
            return
        self.ledger.set(job, spec=job.spec | {name: way})
        words = {each.id: each.words for each in known[name].ways}
        self.note(known[name].name, words.get(before, before), words[way])


class CloseJob(JobCommand):
    """Close the job; with anything unaccounted for only with a word why."""

    verb = "job closed"
    refreshes = True

    def apply(self) -> None:
        """`reason` where something is still out, or steps are not done."""
        job, plan = self.job()
        done, reason = done_of(ticks_of(job)), self.text("reason", _LONGEST)
        missing = [f"{each.missing} {each.what}" for each in open_engine(plan, done) if each.missing]
        if missing and not reason:
            raise Refused(f"Not accounted for: {', '.join(missing)}. Bring it in, or write down why the job ends so.")
        if missing:
            self.ledger.make(JobOverride, job=job, rule="accounted", key="close", reason=reason, by=self.member.user)
        left = sum(done.get(item.key, 0) < item.times for item in plan.items)
        self.ledger.set(job, closed_at=timezone.now())
        self.note("", "", f"{len(plan.items) - left} of {len(plan.items)} steps done" + (f": {reason}" if reason else ""))
