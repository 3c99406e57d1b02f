"""From a symptom to its causes, as view-models; what was said of tests stands in the address."""

from dataclasses import dataclass, field
from urllib.parse import urlencode

from valvetrain.studies.job.symptoms import WayHeard, causes, entropy, next_tests, symptoms, told_odds

_SURE = 0.75


@dataclass(frozen=True, kw_only=True)
class CauseLine:
    """One cause with its odds before and now, per cent."""

    name: str
    before: int
    now: int
    next: str
    job: str


@dataclass(frozen=True, kw_only=True)
class TestLine:
    """One test at hand with both outcomes told beforehand, and the addresses that say which it was."""

    name: str
    minutes: int
    takes: str
    yes: str
    no: str
    yes_at: str
    no_at: str
    yes_then: str
    no_then: str


@dataclass(frozen=True, kw_only=True)
class SymptomsPage:
    """The page."""

    symptoms: list[tuple[str, str]]
    name: str = ""
    id: str = ""
    causes: list[CauseLine] = field(default_factory=list)
    tests: list[TestLine] = field(default_factory=list)
    said: list[tuple[str, str]] = field(default_factory=list)
    words: str = ""
    heard: str = ""


_SOUND = {"hard_wall", "soft_wall", "hot_boost", "no_revs"}  # symptoms that are about how an engine stops to rev


def symptoms_page(asked: str, said: list[str], heard: WayHeard | None = None, heard_words: str = "") -> SymptomsPage:
    """View-model; an unknown symptom, test or outcome is passed over. `heard` is how Proof has it give up, in words too."""
    known = symptoms()
    names = [(each.id, each.name) for each in known.values()]
    symptom = known.get(asked)
    if symptom is None:
        return SymptomsPage(symptoms=names)
    tests = {test.id: test for test in symptom.tests}
    outcomes: list[tuple[str, bool]] = []
    for each in said[: len(tests)]:
        name, _, word = each.partition(":")
        if name in tests and word in ("yes", "no") and name not in {done for done, _ in outcomes}:
            outcomes.append((name, word == "yes"))
    if symptom.id not in _SOUND:
        heard, heard_words = None, ""
    odds, all_causes = told_odds(symptom, outcomes, heard), causes()
    doubt = entropy(odds) or 1.0
    kept = [("said", f"{name}:{'yes' if true else 'no'}") for name, true in outcomes]
    at = lambda name, word: "?" + urlencode([("symptom", symptom.id), *kept, ("said", f"{name}:{word}")])
    told = lambda pair: f"then {all_causes[pair[0]].name.lower()}, {100 * pair[1]:.0f} %"
    lines = [
        TestLine(
            name=each.test.name, minutes=round(each.test.minutes), takes=f"{100 * each.bits / doubt:.0f} %", yes=each.test.true, no=each.test.false,
            yes_at=at(each.test.id, "yes"), no_at=at(each.test.id, "no"), yes_then=told(each.if_true), no_then=told(each.if_false),
        )
        for each in next_tests(symptom, outcomes, heard)
    ]  # fmt: skip
    ranked = sorted(odds.items(), key=lambda pair: -pair[1])
    best, share = ranked[0]
    words = f"{all_causes[best].name}, {100 * share:.0f} %" + (
        ": sure enough to go on." if share >= _SURE else ": test on, or take the likeliest first."
    )
    return SymptomsPage(
        symptoms=names, name=symptom.name, id=symptom.id, words=words, heard=heard_words,
        causes=[
            CauseLine(
                name=all_causes[cause].name, before=round(100 * symptom.odds[cause]), now=round(100 * now), next=all_causes[cause].next,
                job=all_causes[cause].job,
            )
            for cause, now in ranked
        ],
        tests=lines, said=[(tests[name].name, tests[name].true if true else tests[name].false) for name, true in outcomes],
    )  # fmt: skip
