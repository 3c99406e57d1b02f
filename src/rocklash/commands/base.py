"""The one way in which records change: allow, lock, sent before?, apply, touch, still consistent?, journal. The answer is one Outcome."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, ClassVar

from django.core.exceptions import PermissionDenied
from django.db import IntegrityError, transaction
from django.http import QueryDict
from django.utils import timezone

from rocklash.answers.results import BuildResult, result_of
from rocklash.commands.ledger import Ledger
from rocklash.records.models import Build, JournalEntry, Membership, Role, Workshop
from rocklash.records.selectors.builds import build_or_404, refreshed
from rocklash.ui.forms import BenchForm
from valvetrain.errors import ValveTrainError
from valvetrain.units import UnitSystem


class Refused(Exception):  # noqa: N818  (it carries a refusal, it is not a fault)
    """Why nothing was kept: a sentence, or sentences by field. `conflict` when somebody else was there first. `made` goes on to the page."""

    def __init__(self, sentence: str = "", *, fields: Mapping[str, str] | None = None, conflict: bool = False, made: Any = None) -> None:
        super().__init__(sentence or " ".join((fields or {}).values()))
        self.sentence, self.fields, self.conflict, self.made = str(self.args[0]), dict(fields or {}), conflict, made


@dataclass(frozen=True)
class Outcome:
    """What became of a command. `sentence` and `fields` hold amounts in SI until the page tells them; `made` is what the command made for the
    page to go on with; `build` and `result` are as they stand after it, where it changed the build."""

    state: str
    sentence: str = ""
    fields: Mapping[str, str] = field(default_factory=dict)
    made: Any = None
    build: Build | None = None
    result: BuildResult | None = None

    @property
    def status(self) -> int:
        """HTTP status to answer with: 409 when somebody else was there first, 422 for what was refused."""
        return {"conflict": 409, "refused": 422}.get(self.state, 200)

    @property
    def refused(self) -> bool:
        """Whether nothing was kept."""
        return self.state in ("refused", "conflict")


class _Contradicts(Exception):  # noqa: N818  (a way out of the transaction)
    """The build's figures contradict one another now; whether they did before is seen once everything is taken back."""


class _NothingToDo(Exception):  # noqa: N818  (a way out of the transaction)
    """What was sent stands already."""


KEPT, UNCHANGED, BEFORE = "kept", "unchanged", "kept before"


def require_change(member: Membership) -> None:
    """Raise PermissionDenied with a sentence unless the member may change records."""
    if not member.may_change:
        raise PermissionDenied(f"You are a viewer in {member.workshop}: you can look at everything and change nothing. Ask its owner.")


def require_owner(member: Membership) -> None:
    """Raise PermissionDenied with a sentence unless the member owns the workshop."""
    if member.role != Role.OWNER:
        raise PermissionDenied(f"Only an owner of {member.workshop} can do this.")


def number_of(text: str) -> int:
    """A row's number as sent, -1 for anything else."""
    return int(text) if text.isascii() and text.isdigit() and len(text) < 19 else -1


class Command:
    """One change of a workshop's records, in one transaction.

    A subclass names its `verb` and writes `apply`: it locks the rows it changes, looks whether they are as the person saw them, and changes them
    through the ledger. `reversible` commands can be undone from the journal. `judged` ones are taken back when the build's figures
    contradict one another after them and did not before. Those that `refresh` change the build itself, which is read anew once; those that
    are `light` need nothing but its row, and the build is loaded whole only then. `nothing` is what is said behind a refusal of the core, `taken_back` (or else the same)
    behind such a contradiction. What a command with a `form` is sent is read by it before anything else; `cleaned` holds what it read.
    """

    verb: str
    reversible: ClassVar[bool] = True
    judged: ClassVar[bool] = True
    refreshes: ClassVar[bool] = True
    locks_build: ClassVar[bool] = True
    locks_shop: ClassVar[bool] = False
    light: ClassVar[bool] = False
    nothing: ClassVar[str] = "Nothing was saved."
    taken_back: ClassVar[str] = ""
    form: ClassVar[type[BenchForm] | None] = None

    def __init__(
        self, member: Membership, build: Build | None = None, data: Mapping[str, Any] | None = None, *, target: Any = None, files: Any = None,
        query: Mapping[str, Any] | None = None,
    ) -> None:  # fmt: skip
        self.member, self.build, self.target = member, build, target
        self.data: Mapping[str, Any] = data if data is not None else {}
        self.files, self.query = files or {}, query or {}
        self.about = self.before = self.after = ""
        self.made: Any = None
        self.cleaned: dict[str, Any] = {}
        self._contradicted = False
        self._begin()

    def _begin(self) -> None:
        self.ledger = Ledger(self.member, remember=self.reversible)

    @property
    def system(self) -> UnitSystem:
        """Units of the person who sent it."""
        return UnitSystem(self.member.user.unit_system)

    @property
    def subject(self) -> Build:
        """The build, for commands that have one."""
        assert self.build is not None
        return self.build

    def text(self, key: str, longest: int = 400) -> str:
        """A sent text, trimmed; without signs that no text holds."""
        return str(self.data.get(key, "")).replace("\x00", "").strip()[:longest]

    def changed(self, key: str, now: str) -> bool:
        """Whether the person changed a field: it is not as they were shown it (`was_<key>`). Where they were shown nothing, what is sent counts. Raises
        Refused where somebody else changed it meanwhile, with what it is `now`."""
        if key not in self.data:
            return False
        was = self.data.get(f"was_{key}")
        if was is None:
            return True
        if self.text(key) == str(was).strip():
            return False
        if str(was).strip() != now.strip() and self.text(key) != now.strip():
            raise Refused(f"Meanwhile this became “{now or 'nothing'}”. Look at it; sent again, yours takes its place.", conflict=True)
        return True

    def standing(self) -> object:
        """What stands now of what this command writes over, read anew and without locks; None for one that writes over nothing, or looks by itself."""
        return None

    def stands(self) -> str:
        """A short name for what stands now: the page's form carries it back."""
        now = self.standing()
        return "" if now is None else hashlib.blake2b(repr(now).encode(), digest_size=6).hexdigest()

    def _as_shown(self) -> None:
        shown = self.text("stands", 16)
        if shown and shown != self.stands():
            now = self.standing()
            told = f"this became “{now}”" if isinstance(now, str) and now else "somebody changed this"
            raise Refused(f"Meanwhile {told}. Look at what it is now; sent again, yours takes its place.", conflict=True)

    def note(self, about: str, before: str = "", after: str = "") -> None:
        """What the journal says of it; the build's own name stands before `about`."""
        name = self.build.name if self.build else ""
        self.about = f"{name}: {about}" if name and about else name or about
        self.before, self.after = before, after

    def allow(self) -> None:
        """Raise PermissionDenied unless the member may do this."""
        require_change(self.member)

    def lock(self) -> None:
        """Lock the build, so that two changes which contradict one another meet, by noting that it was changed: what is refused or changes
        nothing takes that back."""
        if self.build and self.locks_build:
            Build.objects.filter(pk=self.build.pk).update(updated_at=timezone.now())
        if self.locks_shop:
            Workshop.objects.select_for_update(no_key=True).get(pk=self.member.workshop_id)

    def apply(self) -> None:
        """Change the rows, or raise Refused."""
        raise NotImplementedError

    def include(self, other: "Command") -> None:
        """Do another command's work as part of this one: its rows stand in this one's line of the journal."""
        other.ledger = self.ledger
        other.apply()

    def run(self) -> Outcome:
        """Do it, whole or not at all. Raises PermissionDenied and Http404; everything else is told by the outcome."""
        self.allow()
        once = self._once()
        try:
            self._read_form()
            with transaction.atomic():
                self.lock()
                self._as_shown()
                self.apply()
                if not self.ledger.changes:
                    raise _NothingToDo  # noqa: TRY301  (takes the lock's note back)
                build, result = self._after()
                self._journal(once)
        except _Contradicts as found:
            if result_of(build_or_404(self.member.workshop, self.subject.pk)).contradiction:
                self._contradicted = True
                self._begin()
                return self.run()
            return Outcome("refused", f"{found} {self.taken_back or self.nothing}")
        except _NothingToDo:
            return Outcome(UNCHANGED, made=self.made)
        except Refused as refused:
            if self._done_before(once):
                return Outcome(BEFORE)
            return Outcome("conflict" if refused.conflict else "refused", refused.sentence, refused.fields, refused.made)
        except ValveTrainError as error:
            return Outcome("refused", f"{error.sentence} {self.nothing}".rstrip())
        except IntegrityError as error:
            if "one_entry_per_form_sent" in str(error):
                return Outcome(BEFORE)
            raise
        return Outcome(KEPT, made=self.made, build=build, result=result)

    def bound(self) -> BenchForm | None:
        """The form with what was sent in it."""
        return self.form(self.data, system=self.system, about=self.build) if self.form else None

    def _read_form(self) -> None:
        bound = self.bound()
        if bound is None:
            return
        if not bound.is_valid():
            raise Refused(fields=bound.sentences())
        self.cleaned = bound.cleaned_data

    def _done_before(self, once: str | None) -> bool:
        """Whether this very form was done already: then what it finds changed is its own work."""
        return bool(once) and JournalEntry.objects.filter(workshop=self.member.workshop, once=once).exists()

    def _once(self) -> str | None:
        """A name for this very form with these very words; the same form with other words is another command."""
        key = str(self.data.get("once", ""))
        if not key:
            return None
        pairs = self.data.lists() if isinstance(self.data, QueryDict) else self.data.items()
        words = sorted((name, value) for name, value in pairs if name != "csrfmiddlewaretoken")
        seed = (type(self).__name__, self.member.user_id, self.build and self.build.pk, getattr(self.target, "pk", None), words)
        return hashlib.blake2b(repr(seed).encode(), digest_size=16).hexdigest()

    def _after(self) -> tuple[Build | None, BuildResult | None]:
        """The build as it is now; judged commands must leave it without a new contradiction."""
        if self.build is None or not (self.judged or self.refreshes):
            return None, None
        changed = {change["row"] for change in self.ledger.changes}
        fresh = build_or_404(self.build.workshop, self.build.pk) if self.light else refreshed(self.build, changed)
        if not self.judged:
            return fresh, None
        result = result_of(fresh)
        if result.contradiction and not self._contradicted:
            raise _Contradicts(result.contradiction)
        return fresh, result

    def _journal(self, once: str | None) -> JournalEntry:
        self.ledger.keep_histories()
        return JournalEntry.objects.create(
            workshop=self.member.workshop,
            build=self.build,
            by=self.member.user,
            verb=self.verb,
            about=self.about,
            before=self.before,
            after=self.after,
            data=self.ledger.changes if self.reversible else [],
            reversible=self.reversible,
            once=once,
        )
