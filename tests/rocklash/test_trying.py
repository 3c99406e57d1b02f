"""A fix tried from the overview keeps nothing; taken it stands in the proposed set-up alone, and one undo takes it back."""

import re

import pytest

from rocklash.answers.results import result_of
from rocklash.answers.rows import side_rows
from rocklash.answers.trying import fixes_of
from rocklash.records.models import Build, JournalEntry, Membership, Part, SetupRole
from rocklash.records.selectors.builds import build_or_404
from tests.rocklash.conftest import address, client_for

SPRINGS = "stiffer-springs-at-this-height-intake"


def fresh(build: Build) -> Build:
    return build_or_404(build.workshop, build.pk)


def sent_of(page: str) -> dict[str, str]:
    form = page[page.index('value="take"') - 300 : page.index("Take it")]
    return dict(re.findall(r'name="(\w+)"\s+value="([^"]*)"', form)) | {"act": "take"}


@pytest.mark.parametrize("number", range(5))
def test_trying_keeps_nothing_and_tells_what_taking_brings(builder: Membership, petrel: Build, number: int) -> None:
    """Of every fix offered for Petrel: what the trial prints is what stands after it was taken."""
    client = client_for(builder)
    fix = fixes_of(result_of(fresh(petrel)))[number]
    before = JournalEntry.objects.count(), Part.objects.count()
    page = client.get(f"{address(petrel)}?try={fix.key}").content.decode()
    assert (JournalEntry.objects.count(), Part.objects.count()) == before
    assert "l-tried" in page
    told = re.findall(
        r'<th scope="row" class="name">([^<]+)</th> ?<td class="r">[^<]*</td>.*?<td class="r num">([^<]+)</td>',
        page[page.index('id="trial"') :],
    )
    assert told
    assert client.post(address(petrel), sent_of(page)).status_code == 302
    after = client.get(f"{address(petrel)}").content.decode()
    for title, figure in told:
        row = after[after.index(f">{title}</a>") :]
        assert f">{figure.split(' ')[0]}</td>" in row[: row.index("</tr>")], (title, figure)


def test_taken_springs_are_new_parts_and_one_undo_takes_them_back(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    was = side_rows(fresh(petrel))
    own = {spring.pk: dict(spring.figures) for spring in Part.objects.filter(kind="spring")}
    client.post(address(petrel), sent_of(client.get(f"{address(petrel)}?try={SPRINGS}").content.decode()))
    now = side_rows(fresh(petrel))
    spring = now[SetupRole.PROPOSED, "intake"].outer_spring
    assert spring.name.endswith(", wanted")
    assert now[SetupRole.STOCK, "intake"].outer_spring_id == was[SetupRole.STOCK, "intake"].outer_spring_id
    assert now[SetupRole.PROPOSED, "exhaust"].outer_spring_id == was[SetupRole.PROPOSED, "exhaust"].outer_spring_id
    assert {part.pk: part.figures for part in Part.objects.filter(pk__in=own)} == own  # nothing that others use is changed
    entry = JournalEntry.objects.filter(build=petrel).latest("pk")
    client.post(address(petrel), {"act": "undo", "entry": entry.pk})
    assert side_rows(fresh(petrel))[SetupRole.PROPOSED, "intake"].outer_spring_id == was[SetupRole.PROPOSED, "intake"].outer_spring_id


def test_a_fix_that_changed_meanwhile_is_not_taken(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    sent = sent_of(client.get(f"{address(petrel)}?try={SPRINGS}").content.decode())
    Build.objects.filter(pk=petrel.pk).update(figures=petrel.figures | {"boost": petrel.figures["boost"] | {"value": 9e4}})
    late = client.post(f"{address(petrel)}?try={SPRINGS}", sent)
    assert late.status_code == 409
    assert "Meanwhile the figures changed" in late.content.decode()
    assert client.post(address(petrel), {"act": "take", "fix": "no-such-fix", "seen": ""}).status_code == 409


def test_only_who_may_change_takes(viewer: Membership, petrel: Build) -> None:
    page = client_for(viewer).get(f"{address(petrel)}?try={SPRINGS}").content.decode()
    assert 'id="trial"' in page
    assert "Take it" not in page
    assert client_for(viewer).post(address(petrel), {"act": "take", "fix": SPRINGS}).status_code == 403


def test_what_cannot_be_tried_is_not(builder: Membership, petrel: Build) -> None:
    for key in ("nothing", "the-cam-later-intake", "%00", "a" * 300):
        answer = client_for(builder).get(f"{address(petrel)}?try={key}")
        assert answer.status_code in (200, 400)
        assert 'id="trial"' not in answer.content.decode()
