"""Changes of the Goal station beside its plain figures."""

from rocklash.commands.base import Command, Refused
from rocklash.records.models import Build
from valvetrain.parts.engine import Use


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
