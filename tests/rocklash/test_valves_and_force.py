"""The pages Valve by valve and Force: heights, shims, weighings, inertia, and the answers backwards."""

import pytest

from rocklash.answers.results import result_of
from rocklash.answers.rows import side_rows
from rocklash.records.models import Build, Membership, ValveFit, Weighing
from rocklash.records.selectors.builds import build_or_404
from tests.rocklash.conftest import address, client_for
from valvetrain.parts.engine import Side
from valvetrain.studies.train.side_figures import nominal_seat_load

PAGE = "springs/valves/"


def _loads(build: Build) -> dict[str, float]:
    answer = result_of(build_or_404(build.workshop, build.pk))
    assert answer.review
    side = answer.review.completed.proposed.sides[Side.EXHAUST]
    return {place.name: nominal_seat_load(side, place) for place in side.positions}


def _stand(build: Build, **more: str) -> dict[str, str]:
    row = side_rows(build)["proposed", "exhaust"]
    place = build.engine.positions.filter(side="exhaust").first()
    assert place
    return {"act": "stand", "row": str(row.pk), "valve": str(place.pk), "seen": "none"} | more


def test_a_measured_height_moves_that_valves_seat_load_and_no_other(builder: Membership, petrel: Build) -> None:
    before = _loads(petrel)
    name = petrel.engine.positions.filter(side="exhaust").first().name  # type: ignore[union-attr]
    answer = client_for(builder).post(address(petrel, PAGE) + "?side=exhaust", _stand(petrel, height="37.8"))
    assert answer.status_code == 200
    after = _loads(petrel)
    assert after[name] < before[name]
    assert {key: value for key, value in after.items() if key != name} == {key: value for key, value in before.items() if key != name}


def test_protrusion_and_drop_give_the_height(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    client.post(address(petrel, PAGE) + "?side=exhaust", _stand(petrel, protrusion="45.6", drop="8.2", shim="0.5"))
    fit = ValveFit.objects.get()
    assert (fit.height, fit.protrusion, fit.drop, fit.shim) == pytest.approx((37.4e-3, 45.6e-3, 8.2e-3, 0.5e-3))
    page = client.get(address(petrel, PAGE) + "?side=exhaust").content.decode()
    assert 'value="45.6"' in page
    seen = client.get(address(petrel, PAGE) + "?side=exhaust").context["page"].rows
    row = next(each for each in seen if each.protrusion)
    client.post(address(petrel, PAGE) + "?side=exhaust", _stand(petrel, seen=row.seen))
    assert not ValveFit.objects.exists()  # emptied fields take the measurement back


@pytest.mark.parametrize(
    "more, words",
    [
        ({"height": "378"}, "Is the unit right?"),
        ({"protrusion": "45.6"}, "go together"),
        ({"protrusion": "8", "drop": "9"}, "no room for a spring"),
        ({"height": "37.4", "seen": "0.0370000///"}, "somebody else measured"),
        ({"height": "abc"}, "is not a length"),
    ],
)
def test_wrong_heights_are_refused_in_words(builder: Membership, petrel: Build, more: dict[str, str], words: str) -> None:
    answer = client_for(builder).post(address(petrel, PAGE) + "?side=exhaust", _stand(petrel, **more))
    assert answer.status_code == (409 if "somebody else" in words else 422)
    assert words in answer.content.decode()
    assert not ValveFit.objects.exists()


def test_planned_shims_are_laid_and_bring_every_valve_to_its_load(builder: Membership, petrel: Build) -> None:
    client = client_for(builder)
    row = side_rows(petrel)["proposed", "exhaust"]
    least = min(_loads(petrel).values())
    wanted = least + 12.0
    answer = client.post(address(petrel, PAGE) + f"?side=exhaust&wanted={wanted:.0f}", {"act": "lay", "row": str(row.pk)})
    assert answer.status_code == 200
    assert min(_loads(petrel).values()) >= wanted - 1.0
    page = client.get(address(petrel, PAGE) + f"?side=exhaust&wanted={wanted:.0f}").context["page"]
    assert all(each.load == each.after for each in page.rows)  # what is laid is what the plan asks for
    assert "Spring shims to lay out:" in page.shopping


def test_weighings_become_the_parts_mass(builder: Membership, petrel: Build) -> None:
    client, row = client_for(builder), side_rows(petrel)["proposed", "exhaust"]
    places = list(petrel.engine.positions.filter(side="exhaust")[:2])
    for place, grams in zip(places, ("42.1", "42.5"), strict=True):
        data = {"act": "weigh", "row": str(row.pk), "valve": str(place.pk), "slot": "valve", "mass": grams, "seen": "none"}
        assert client.post(address(petrel, PAGE) + "?side=exhaust", data).status_code == 200
    assert row.valve
    row.valve.refresh_from_db()
    assert row.valve.figures["mass"]["value"] == pytest.approx(42.3e-3)
    assert row.valve.figures["mass"]["basis"] == "measured"
    odd = {"act": "weigh", "row": str(row.pk), "valve": str(places[0].pk), "slot": "valve", "mass": "12", "seen": "0.0421000"}
    refused = client.post(address(petrel, PAGE) + "?side=exhaust", odd)
    assert refused.status_code == 422
    assert "cannot be the same part" in refused.content.decode()
    assert sorted(Weighing.objects.values_list("mass", flat=True)) == pytest.approx([42.1e-3, 42.5e-3])
    assert client.post(address(petrel, PAGE) + "?side=exhaust", odd | {"slot": "piston"}).status_code == 422


@pytest.mark.parametrize(
    "data, grams",
    [
        ({"way": "geometry", "mass": "30", "valve_arm": "33"}, 10.0),
        ({"way": "weighing", "valve_end": "15", "other_end": "15", "valve_arm": "33"}, 11.25),
        ({"way": "pendulum", "mass": "30", "centre": "16.5", "swings": "50", "seconds": "14.88", "valve_arm": "33"}, 10.0),
    ],
)
def test_a_rockers_mass_at_the_valve_follows_from_its_inertia(
    builder: Membership, petrel: Build, data: dict[str, str], grams: float
) -> None:
    row = side_rows(petrel)["proposed", "exhaust"]
    assert client_for(builder).post(address(petrel, PAGE), {"act": "swing", "row": str(row.pk)} | data).status_code == 200
    assert row.follower
    row.follower.refresh_from_db()
    assert row.follower.figures["mass"]["value"] * 1e3 == pytest.approx(grams, rel=0.01)
    refused = client_for(builder).post(address(petrel, PAGE), {"act": "swing", "row": str(row.pk)} | data | {"valve_arm": ""})
    assert refused.status_code == 422
    assert "Pivot to valve is missing: this way needs it." in refused.content.decode()


@pytest.mark.parametrize("side", ["intake", "exhaust"])
def test_force_page_answers_backwards_and_tells_the_price(builder: Membership, petrel: Build, side: str) -> None:
    page = client_for(builder).get(address(petrel, "springs/force/") + f"?side={side}").context["page"]
    assert [row.name for row in page.asks] == [
        "Seat load",
        "Rate of the pack",
        "Moving mass",
        "Peak deceleration by the lobe",
        "Spring shim to add",
    ]
    assert page.measures
    assert "10,000 trains" in page.band
    assert page.gas_words
    idle, goal = (next(row for row in page.costs if row.name == f"Friction power at {when}") for when in ("idle", "the goal"))
    assert [row.stock for row in page.costs if "fatigue" in row.name] != [""]
    assert float(goal.proposed) > float(idle.proposed) > float(idle.stock)  # stronger springs cost at any speed


def test_force_answers_do_not_change_with_the_unit_system(builder: Membership, petrel: Build) -> None:
    builder.user.unit_system = "inch"
    builder.user.save(update_fields=["unit_system"])
    page = client_for(builder).get(address(petrel, "springs/force/")).content.decode()
    assert "lbf" in page
    assert "psi" in page
