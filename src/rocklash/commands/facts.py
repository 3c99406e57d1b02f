"""Keeping a word: of a part, such as where its lifts are told, of the engine, or of the goal."""

from django.shortcuts import get_object_or_404

from rocklash.commands.base import Command, Refused
from rocklash.records.models import Build, Engine, Part
from valvetrain.parts.catalogue import FACTS, Owner


class KeepWord(Command):
    """Keep a known word on its owner, unless it changed since the person saw it. The target is a part, or none for engine and goal."""

    verb = "fact"
    light = True

    def apply(self) -> None:
        """The owner's choice as sent in `fact` and `word`; `seen` is the word the person saw."""
        part: Part | None = self.target
        owner: Engine | Part | Build
        if part is None and self.text("of") == Owner.GOAL:
            owner, kind = Build.objects.select_for_update(no_key=True).get(pk=self.subject.pk), Owner.GOAL
        elif part is None:
            owner, kind = get_object_or_404(Engine.objects.select_for_update(no_key=True), pk=self.subject.engine_id), Owner.ENGINE
        else:
            owner, kind = get_object_or_404(Part.objects.select_for_update(no_key=True), pk=part.pk), Owner(part.kind)
        fact, word = FACTS.get((kind, self.text("fact"))), self.text("word")
        if fact is None or word not in fact.choices:
            raise Refused(f"There is no such choice for this {kind.value if part is None else 'part'}.")
        now = owner.facts.get(fact.key) or next(iter(fact.choices))
        if word == now:
            return
        if self.text("seen") != now:
            raise Refused(f"Meanwhile this became “{fact.choices[now]}”. Choose again if you still want another.", conflict=True)
        self.ledger.set(owner, facts=owner.facts | {fact.key: word})
        label = fact.label.lower()
        self.note(label if part is None else f"{owner}, {label}", fact.choices[now], fact.choices[word])


class KeepRods(KeepWord):
    """What the rods are of: its form sends no name of the choice."""

    def text(self, key: str, longest: int = 400) -> str:
        """The choice is always the same one."""
        return "rods" if key == "fact" else super().text(key, longest)
