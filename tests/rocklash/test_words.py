"""Plain words: what a builder has to turn over twice stays out of labels, sentences and pages; one name for one thing."""

import io
import re
import tokenize
from pathlib import Path

import pytest
from django.test import Client

from rocklash.records.models import Build, Membership
from tests.rocklash.conftest import address, client_for
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
