"""A fix of a build tried: found again by its name, and everything judged with it."""

from dataclasses import dataclass

from django.utils.text import slugify

from rocklash.answers.results import BuildResult, judged
from rocklash.ui.presenting import ranked_remedies
from valvetrain.parts.engine import Side
from valvetrain.studies.checks.check import Check, Remedy
from valvetrain.studies.review.trying import Change, change_of, tried


@dataclass(frozen=True)
class Fix:
    """One fix as the overview offers it; `change` is None where it is no figure that can be tried here."""

    key: str
    remedy: Remedy
    check: Check
    side: Side | None
    change: Change | None

    @property
    def seen(self) -> str:
        """What a person saw of it: it is taken only as long as it is the same."""
        return f"{self.remedy.amount:.9g}"


def fixes_of(answer: BuildResult, role: str = "proposed") -> list[Fix]:
    """The fixes of a build, in the order in which they are offered. Of the stock set-up none can be tried: it is history."""
    if answer.review is None:
        return []
    found = answer.review.stock if role == "stock" else answer.review.proposed
    fixes = []
    for remedy, check in ranked_remedies(found):
        change = None if role == "stock" else change_of(remedy, check.side, answer.record, answer.review.completed)
        key = slugify(f"{remedy.action} {check.side or ''}")
        fixes.append(Fix(key, remedy, check, check.side, change))
    return fixes


def fix_of(answer: BuildResult, key: str) -> Fix | None:
    """The fix of that name, where there is one that can be tried."""
    return next((fix for fix in fixes_of(answer) if fix.key == key and fix.change), None)


def with_fix(answer: BuildResult, fix: Fix) -> BuildResult:
    """The build judged with the fix in it; nothing is kept."""
    assert fix.change
    return judged(tried(fix.change, fix.side, answer.record))
