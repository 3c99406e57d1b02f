"""Changes of the Goal station beside its plain figures."""

from rocklash.commands.base import Command, Refused, number_of
from rocklash.desk.files import sent_text
from rocklash.records.models import Build
from rocklash.stations.goal.forms import FlowForm
from valvetrain.errors import ValveTrainError
from valvetrain.formats import flow_log
from valvetrain.formats.build_file import flow_document
from valvetrain.parts.engine import Side, Use
from valvetrain.parts.flow import FlowTest

_MOST = 24  # flow tests of a build


class SetUse(Command):
    """Keep what the engine is for; an unknown word changes nothing."""

    verb = "use"

    def apply(self) -> None:
        """`seen` is the use the person saw."""
        now, use = Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk), self.text("use")
        if use not in set(Use) or use == now.use:
            return
        if self.text("seen") != now.use:
            raise Refused(f"Meanwhile this became {now.use.replace('_', ' ')}. Choose again if you still want another.", conflict=True)
        self.note("use", now.use, use)
        self.ledger.set(now, use=use)


class AddFlow(Command):
    """Keep a port's flow bench; the newest of a side and state counts."""

    verb = "flow bench"
    form = FlowForm

    def apply(self) -> None:
        """The log as typed or as a file."""
        told = self.cleaned
        text = sent_text(self, "A dozen lifts are plenty.", 100_000)
        try:
            lifts, flows = flow_log.read(text, unit=told["unit"], system=self.system)
            side, valves = Side(told["side"]), self.subject.engine.valves_per_side
            test = FlowTest(side, told["state"], told["depression"].value, lifts, flows, valves, told["name"])
        except ValveTrainError as error:
            raise Refused(fields={"text": error.told(self.system)}) from error
        build = Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk)
        if len(build.flows) >= _MOST:
            raise Refused(f"{_MOST} flow tests are saved already: remove one that counts no more.")
        self.ledger.set(build, flows=[*build.flows, flow_document(test).model_dump(mode="json")])
        self.note(f"{side} port, {told['state']}", "", f"{len(lifts)} lifts")


class DropFlow(Command):
    """Remove a flow test."""

    verb = "flow bench removed"

    def apply(self) -> None:
        """`number` counts from the first; `seen` is how many there were."""
        build = Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk)
        number = number_of(self.text("number"))
        if number_of(self.text("seen")) != len(build.flows) or not 0 <= number < len(build.flows):
            raise Refused("Meanwhile the list of flow tests changed. Look again.", conflict=True)
        gone = build.flows[number]
        self.ledger.set(build, flows=[row for n, row in enumerate(build.flows) if n != number])
        self.note(f"{gone['side']} port, {gone['state']}", f"{len(gone['rows'])} lifts", "")
