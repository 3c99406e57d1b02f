"""The page At speed: what it shows, what was seen on the engine, and how that is brought to bear."""

import time
from itertools import product

import pytest

from rocklash.answers import tasks
from rocklash.answers.calibration import CalibrationJob, begin_learning, learning_of, stop_learning
from rocklash.answers.results import BuildResult, result_of
from rocklash.desk.fields import field_views
from rocklash.records.models import Build, JournalEntry, Membership, Observation
from rocklash.ui.drawings import rev_map
from rocklash.ui.drawings.rev_map import RevMapData, Strip
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.catalogue import Owner
from valvetrain.units import UnitSystem

SEEN = {"act": "seen", "side": "exhaust", "role": "stock", "speed": "7,900", "doubt": "100", "note": "soft wall on the lake"}


def _motion(client: object, build: Build, page: str) -> str:
    return client.get(address(build, "motion/"), {"next": address(build, page)}).content.decode()  # type: ignore[attr-defined]


def test_page_answers_first_and_shows_map_onsets_train_and_unknowns(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    assert "is being computed" in client.get(address(petrel, "springs/speed/") + "?side=exhaust").content.decode()
    page = _motion(client, petrel, "springs/speed/?side=exhaust")
    assert "loses the lobe for good from" in page
    for words in (
        "Rev sweep",
        "Lost for good at",
        "Bounce",
        "Hard seating",
        "Coils clash",
        "Train stiffness at the valve",
        "data-bar",
    ):
        assert words in page
    assert 'class="r-lost"' in page
    other = _motion(client, petrel, "springs/speed/?side=exhaust&rpm=7000")
    assert "At 7,000 rpm" not in page
    assert "At 6,9" in other or "At 7,0" in other
    assert _motion(client, petrel, "springs/speed/?rpm=nonsense").count("At 8,400 rpm") == 1


def test_an_observation_is_kept_with_its_evidence_and_one_is_rested_on(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    assert client.post(address(petrel, "springs/speed/") + "?side=exhaust", SEEN).status_code == 200
    assert client.post(address(petrel, "springs/speed/") + "?side=exhaust", SEEN | {"speed": "8000", "doubt": ""}).status_code == 200
    newest, first = Observation.objects.filter(build=petrel)
    assert (newest.in_use, first.in_use) == (True, False)
    assert newest.spread == pytest.approx(0.02 * 8000 / 60)
    assert first.note == "soft wall on the lake"
    assert "spring" in first.parts.lower()
    client.post(address(petrel, "springs/speed/"), {"act": "use", "observation": str(first.pk), "use": "yes"})
    client.post(address(petrel, "springs/speed/"), {"act": "use", "observation": str(first.pk), "use": "no"})
    assert not Observation.objects.filter(in_use=True).exists()
    assert JournalEntry.objects.filter(verb="gave up").count() == 4


@pytest.mark.parametrize(
    "change, words",
    [
        ({"speed": ""}, "Nothing is typed here"),
        ({"speed": "80"}, "Is the unit right?"),
        ({"doubt": "6000"}, "tells nothing"),
        ({"side": "middle"}, "Say which side"),
    ],
)
def test_what_cannot_be_is_refused_and_what_was_typed_stays(builder: Membership, petrel: Build, change: dict[str, str], words: str) -> None:
    answer = client_for(builder).post(address(petrel, "springs/speed/") + "?side=exhaust", SEEN | change)
    assert answer.status_code == 422
    assert words in answer.content.decode()
    assert "soft wall on the lake" in answer.content.decode()
    assert not Observation.objects.exists()


def _finished(answer: BuildResult, row: Observation) -> CalibrationJob:
    for _ in range(600):
        found = learning_of(answer, row)
        assert found
        if not found.running:
            return found
        time.sleep(0.05)
    raise AssertionError("still computing")


def test_learning_runs_apart_tells_its_share_and_ends_on_the_page(builder: Membership, petrel: Build) -> None:
    tasks.forget("calibration")
    client = client_for(builder, htmx=True)
    client.post(address(petrel, "springs/speed/") + "?side=exhaust", SEEN)
    page = client.get(address(petrel, "springs/speed/") + "?side=exhaust").content.decode()
    assert "learn/?side=exhaust" in page
    running = client.get(address(petrel, "springs/speed/learn/") + "?side=exhaust")
    assert b"128 trains" in running.content or b"Done." in running.content
    row = Observation.objects.get()
    assert _finished(result_of(petrel), row).trouble == ""
    assert b"Done." in client.get(address(petrel, "springs/speed/learn/") + "?side=exhaust").content
    done = client.get(address(petrel, "springs/speed/") + "?side=exhaust").content.decode()
    assert "the next springs lose contact from" in done
    assert "What decides now is" in done


def test_learning_can_be_stopped_and_begun_again(builder: Membership, petrel: Build) -> None:
    tasks.forget("calibration")
    client_for(builder).post(address(petrel, "springs/speed/") + "?side=exhaust", SEEN)
    row, answer = Observation.objects.get(), result_of(petrel)
    found = begin_learning(answer, row)
    assert found.running
    assert begin_learning(answer, row).key == found.key
    stop_learning(found)
    assert _finished(answer, row).stopped
    assert begin_learning(answer, row).running
    stop_learning(found)
    assert _finished(answer, row).stopped


def test_nothing_seen_asks_for_nothing(builder: Membership, petrel: Build) -> None:
    answer = client_for(builder).get(address(petrel, "springs/speed/learn/") + "?side=exhaust")
    assert b"Done." in answer.content
    assert learning_of(result_of(petrel), None) is None


def test_map_places_cells_marks_and_strips() -> None:
    data = RevMapData(
        angles=(-20.0, -10.0, 0.0, 10.0, 20.0), speeds=(1000.0, 2000.0, 3000.0), levels=((-1, 3, 3, -1), (-1, 2, 3, -1), (0, 0, 1, -1)),
        strips=(Strip("Surge", "mm", ((0.1, 0.2, 0.4), (0.0, 0.1, 0.2))), Strip("Seating", "m/s", ((0.2, 0.4, 0.9),), 0.8)),
        marks=((2500.0, "r-goal", "goal"), (2510.0, "r-over", "over-rev"), (9000.0, "r-gone", "beyond")), band=(2000.0, 9000.0),
    )  # fmt: skip
    drawn = rev_map.draw(data)
    areas = dict(drawn.areas)
    assert set(areas) == {"lost", "faint", "light", "firm"}
    assert [len(areas[level]) for level in ("lost", "faint", "light")] == [1, 1, 1]
    # painted one over the other, every cell shows its level; the ground under all of them is one box where rows are alike
    shown: dict[tuple[int, int], str] = {}
    for level, boxes in drawn.areas:
        for left, top, width, height in boxes:
            for row, column in product(range(3), range(4)):
                x = drawn.left + (column + 0.5) * (drawn.right - drawn.left) / 4.0
                y = drawn.bottom - (row + 0.5) * (drawn.bottom - drawn.top) / 3.0
                if left < x < left + width and top < y < top + height:
                    shown[row, column] = level
    wanted = {(row, column): level for row, cells in enumerate(data.levels) for column, level in enumerate(cells) if level >= 0}
    assert shown == {place: rev_map.LEVELS[level] for place, level in wanted.items()}
    assert len(areas["firm"]) == 2
    assert [words for _, _, _, words in drawn.marks] == ["goal", "over-rev"]
    assert abs(drawn.marks[0][1] - drawn.marks[1][1]) >= 13.0
    assert drawn.marks[0][0] > drawn.marks[1][0]
    assert [strip.limit is not None for strip in drawn.strips] == [False, True]
    assert drawn.strips[-1].left + drawn.strips[-1].width < drawn.width
    assert drawn.band
    assert drawn.band[0] == pytest.approx(drawn.top)


def test_a_guess_by_a_factor_is_never_told_as_less_than_nothing(builder: Membership, petrel: Build) -> None:
    """The guesses of stiffness and damping are drawn by a factor: the page names it, and thousands carry no decimals."""
    page = _motion(client_for(builder), petrel, "springs/speed/")
    assert 'placeholder="20,000"' in page
    assert "half to double" in page
    figures = {
        each.key: each
        for each in field_views(
            "engine", Owner.ENGINE, ["train_stiffness", "spring_damping"], {}, result_of(petrel).review.completed.engine, UnitSystem.METRIC
        )
    }  # type: ignore[union-attr]
    found = result_of(petrel).review.completed.engine["spring_damping"]  # type: ignore[union-attr]
    assert figures["train_stiffness"].spread == "half to double"
    assert figures["spring_damping"].spread == f"a factor of {1.0 + found.spread / found.value:.1f} either way"
