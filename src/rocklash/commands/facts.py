"""Keeping a word of a part: the mutation behind every choice of Cams and Springs, and the choice as a page shows it."""

from dataclasses import dataclass

from django.db import transaction
from django.http import QueryDict
from django.utils import timezone

from rocklash.answers.results import answer_for
from rocklash.commands.base import journal, require_change
from rocklash.records.models import Build, Engine, Membership, Part
from rocklash.records.selectors.builds import build_or_404
from valvetrain.parts.catalogue import FACTS, FactKind, Owner
from valvetrain.units import UnitSystem, told


@dataclass(frozen=True)
class FactView:
    """A choice of words: whose, which, what was seen, and the options (stored, read, on)."""

    part: int
    of: str
    key: str
    label: str
    seen: str
    options: list[tuple[str, str, bool]]


def fact_views(part: Part, owner: Owner, keys: tuple[str, ...] = ()) -> list[FactView]:
    """The choices of a part, all of them or those named."""
    views = []
    for (place, key), fact in FACTS.items():
        if place is owner and (not keys or key in keys):
            now = part.facts.get(key) or next(iter(fact.choices))
            options = [(word, words, word == now) for word, words in fact.choices.items()]
            views.append(FactView(part.pk, owner.value, key, fact.label, now, options))
    return views


def note_kept(member: Membership, build: Build) -> str:
    """Note that the build was kept; a sentence, and everything rolled back, when it no longer makes sense."""
    Build.objects.filter(pk=build.pk).update(updated_at=timezone.now())
    trouble = answer_for(build_or_404(member.workshop, build.pk)).contradiction
    if trouble:
        transaction.set_rollback(True)
        return f"{told(trouble, UnitSystem(member.user.unit_system))} Nothing was kept."
    return ""


def engine_facts(build: Build, keys: tuple[str, ...]) -> list[FactView]:
    """Choices of the engine itself, by key."""
    views = []
    for key in keys:
        fact = FACTS[Owner.ENGINE, key]
        now = build.engine.facts.get(key, "")
        views.append(
            FactView(0, Owner.ENGINE.value, key, fact.label, now, [(word, words, word == now) for word, words in fact.choices.items()])
        )
    return views


def _keep_word(member: Membership, build: Build, fact: FactKind, post: QueryDict, owner: Engine | Part, about: str) -> str:
    """Keep a known word on its locked owner, unless it changed since the person saw it; the journal tells it of `about`."""
    word, now = post.get("word", ""), owner.facts.get(fact.key) or next(iter(fact.choices))
    if word == now:
        return ""
    if post.get("seen", "") != now:
        return f"Meanwhile this became “{fact.choices[now]}”. Choose again if you still want another."
    owner.facts = owner.facts | {fact.key: word}
    owner.save(update_fields=["facts"])
    journal(member, "fact", f"{build.name}: {about}", fact.choices[now], fact.choices[word])
    return note_kept(member, build)


def keep_engine_fact(member: Membership, build: Build, post: QueryDict) -> str:
    """Keep a word of the engine, such as whether its stock valves hold the stock limiter; a sentence when it was not kept."""
    require_change(member)
    fact, word = FACTS.get((Owner.ENGINE, post.get("fact", ""))), post.get("word", "")
    if fact is None or word not in fact.choices:
        return "There is no such choice for this engine."
    with transaction.atomic():
        return _keep_word(member, build, fact, post, Engine.objects.select_for_update().get(pk=build.engine_id), fact.label.lower())


def keep_fact(member: Membership, build: Build, part: Part, post: QueryDict) -> str:
    """Keep a word of a part, such as where its lifts are told; returns a sentence when it was not kept."""
    require_change(member)
    fact = FACTS.get((Owner(part.kind), post.get("fact", "")))
    word = post.get("word", "")
    if fact is None or word not in fact.choices:
        return "There is no such choice for this part."
    with transaction.atomic():
        locked = Part.objects.select_for_update().get(pk=part.pk)
        return _keep_word(member, build, fact, post, locked, f"{locked}, {fact.label.lower()}")
