"""Plain words: what a builder has to turn over twice stays out of labels, sentences and pages; one name for one thing."""

import html
import io
import re
import tokenize
from pathlib import Path

import pytest
from django.test import Client

from rocklash.demo import load
from rocklash.records.models import Build, Membership
from tests.rocklash.conftest import PAGES, address, client_for
from valvetrain.wording.checks import TERM_OF
from valvetrain.wording.glossary import TERMS, TOPICS

ROOT = Path(__file__).resolve().parents[2] / "src"
# Retired, with what is said now; in templates and in strings of the code, not in comments and docstrings.
RETIRED = {
    "Ways out": "Fixes to try", "keep A as": "Make B the proposed cam", 'f"shuts {': "closes", "Mend what": "Fix what", "would mend": "would fix", "It holds, slimly": "It holds, but only just", 'estimates decide"': "these rest on estimates; measure first",
    "No lower speed mends": "Fewer revs will not fix this", "figures are good to": "safe to", "reserve kept": "margin included", "shall it hold": "Highest engine speed it must hold",
    "shall hold": "must hold", "Gas on the valves": "Boost and back pressure", "Exhaust pulse over mean": "Back-pressure peak over mean", "force kept on the seat": "seat force to keep",
    ">Make-up<": "Layout", "life in rpm": "Engine speeds", "gives below": "loses at the bottom", "TDC, fires": "TDC, firing", "push angle": "pressure angle", "angle of push": "pressure angle",
    "Hollow flank": "Concave (inverted) flank", "Duration there": "Duration at that lift", "Force and its price": "Spring force and what it costs", "Inner seat higher by": "Inner spring's seat higher by",
    "Lobe slows the valve by": "Peak deceleration by the lobe", "new wire sets": "a new spring takes a set", "Turns of the cam it is expected": "Expected life, cam turns", "Coils, all": "Total coils",
    "How the train shakes": "Stiffness and damping", "It went past what it bears": "It went past its limits", "Wheel rolls in one turn": "Rolling circumference", "Nothing that is known is short": "No known gap is short",
    "shim that is in": "fitted shim", "Why so": "Reason", "heads in the first": "column headings in the first line", "typed, not kept yet": "not saved yet", ">Keep it<": "Save", ">Keep<": "Save",
    "contact at speed": "float at speed (simulated)", "short | spare": "short | in hand", "simulated feeler<": "practice reading",
}  # fmt: skip


def _strings(path: Path) -> list[str]:
    """Strings of a module that may be shown: docstrings and comments are not."""
    found = []
    before = ""
    with io.StringIO(path.read_text(encoding="utf-8")) as source:
        for token in tokenize.generate_tokens(source.readline):
            if token.type == tokenize.STRING and not (
                token.string.lstrip("rbfRBF").startswith('"""') and before in ("", "INDENT", "NEWLINE", "NL", "COMMENT")
            ):
                found.append(token.string)
            before = tokenize.tok_name[token.type]
    return found


@pytest.fixture(scope="module")
def shown() -> dict[str, str]:
    """What may be read on a page, by file."""
    told = {
        str(path.relative_to(ROOT)): re.sub(r"\s+", " ", path.read_text(encoding="utf-8"))
        for path in ROOT.rglob("*.html")
        if "vendor" not in path.parts
    }
    for path in ROOT.rglob("*.py"):
        if "migrations" not in path.parts:
            told[str(path.relative_to(ROOT))] = " ".join(_strings(path))
    return told


@pytest.mark.parametrize("word", RETIRED)
def test_retired_words_stay_away(shown: dict[str, str], word: str) -> None:
    assert [name for name, text in shown.items() if word in text] == [], f"say: {RETIRED[word]}"


def test_the_glossary_holds_every_term_once_and_checks_lead_there(petrel: Build, builder: Membership) -> None:
    """For whoever asks, signed in or not; each term with an address of its own, in one line."""
    keys = [term.key for _, terms in TOPICS for term in terms]
    assert len(keys) == len(set(keys)) > 30
    assert set(TERM_OF.values()) <= set(keys)
    page = Client().get("/glossary/").content.decode()
    for term in TERMS.values():
        assert f'id="{term.key}"' in page
        assert term.line.endswith(".")
        assert len(term.line) < 140
    assert "/glossary/#seat-load" in client_for(builder).get(address(petrel, "")).content.decode()


# Retired too, but only as they come together on a page: from a template, a word of the engine's and a label.
RENDERED = RETIRED | {
    "that is in": "fitted shim", "take back": "undo", "takes it back": "undo", "tester, wire, strength": "open this spring: tester log, wire, life",
    "Engine, h": "Engine hours", "000.0": "a judgement by its usual ends", "What it rests on": "What it is based on", "Bring in": "Import", "for the wall": "Print sheet",
    "own, by side": "own figure per side", "wheel log for": "degree-wheel log", " 1 links": "1 link", " 1 teeth": "1 tooth", "Ground for: not told": "Ground for: unknown", "Ride with a": "Follower face",
    "Base circle across": "Base circle diameter", "Pocket across": "Pocket diameter", "turns in for one out": "Gear 1 ratio", "rests on: exact": "same spring as stock",
    "foretold": "forecast", "Foretold": "Forecast", " anew": "again", "kept filter": "serviced filter", "kept in full": "full", "is supposed": "is assumed",
    "kept 0": "saved 0", "Trapped ratio": "Trapped (dynamic) compression ratio",
}  # fmt: skip


def _read(page: str) -> str:
    """The words of a page as they come together, without scripts."""
    return re.sub(
        r"\s+", " ", html.unescape(re.sub(r"<[^>]+>", " ", re.sub(r"<script.*?</script>|<style.*?</style>", " ", page, flags=re.DOTALL)))
    )


def test_no_page_reads_as_it_once_did(db: None) -> None:
    """A triple with buckets that is open, and a twin with fingers and a finished job: between them they fill every page."""
    load.load()
    found = set()
    for build in Build.objects.filter(name__in=("Petrel 1498", "Dunlin 598")):
        client = client_for(Membership.objects.get(workshop=build.workshop, role="builder"))
        for page in PAGES:
            text = _read(client.get(address(build, page), follow=True).content.decode())
            found |= {f"{build.name} {page}: {word} -> {better}" for word, better in RENDERED.items() if word in text}
    assert not found, "\n".join(sorted(found))
