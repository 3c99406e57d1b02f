"""A session that ends while somebody types: nothing is taken for kept."""

from django.test import Client

from rocklash.records.models import Build, Membership, Reading
from tests.rocklash.conftest import address, client_for


def test_a_request_from_within_a_page_is_told_401_and_not_led_away(petrel: Build, builder: Membership) -> None:
    client = client_for(builder, htmx=True)
    client.logout()
    where = address(petrel, "lash/")
    answer = client.post(where, {"act": "read", "goes": "0.24"}, headers={"HX-Current-URL": f"http://testserver{where}"})
    assert answer.status_code == 401
    assert answer["HX-Reswap"] == "none"
    assert "next=%2Fshop" in answer.content.decode()
    assert not Reading.objects.exists()


def test_a_page_of_its_own_leads_to_the_sign_in_page_and_back(petrel: Build) -> None:
    where = address(petrel, "springs/") + "?side=exhaust"
    answer = Client().get(where)
    assert answer.status_code == 302
    assert "side%3Dexhaust" in answer["Location"]
    sent = Client().post(address(petrel, "lash/in/"), {"text": "x"})
    assert sent.status_code == 302
    assert sent["Location"].endswith("/lash/in/")
    other = Client().post(f"{address(petrel, 'springs/new/retainer/')}?side=intake", {"name": "R"})
    assert "side%3Dintake" in other["Location"]  # back to the side it was typed for
    assert "data-sign-in" in Client().get(answer["Location"]).content.decode()
