"""The station that CONTRIBUTING shows is put together from that page and tried as a person would."""

import re
import sys
from collections.abc import Iterator
from pathlib import Path
from types import ModuleType
from typing import Any

import pytest
from django.template import engines
from django.test import override_settings
from django.urls import clear_url_caches

from rocklash.config.urls import urlpatterns
from rocklash.desk import registry
from rocklash.records.models import Build, JournalEntry, Membership
from tests.rocklash.conftest import address, client_for

PAGE = Path(__file__).resolve().parents[2] / "CONTRIBUTING.md"


@pytest.fixture
def station(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    found = re.findall(r"^`stations/(naming/[\w./]+)`\n\n```\w+\n(.*?)```", PAGE.read_text(encoding="utf-8"), re.DOTALL | re.MULTILINE)
    root = tmp_path / "naming_example"
    for name, text in [*found, ("__init__.py", ""), ("naming/__init__.py", "")]:
        (root / name).parent.mkdir(parents=True, exist_ok=True)
        (root / name).write_text(text, encoding="utf-8")
    monkeypatch.syspath_prepend(str(tmp_path))
    registry.discover("naming_example")
    module = ModuleType("naming_urls")
    vars(module).update(urlpatterns=[*urlpatterns, *registry.addresses()[-3:]], handler404="rocklash.ui.refusals.not_found")
    monkeypatch.setitem(sys.modules, "naming_urls", module)
    loaders = engines["django"].engine.template_loaders
    for loader in loaders:
        for inner in getattr(loader, "loaders", [loader]):
            getattr(inner, "reset", lambda: None)()
    folder: Any = engines["django"].engine
    monkeypatch.setattr(folder, "dirs", [*folder.dirs, root / "naming/templates"])
    with override_settings(ROOT_URLCONF="naming_urls"):
        clear_url_caches()
        yield sum(len(text.splitlines()) for _, text in found)
    registry._stations.pop("naming")
    clear_url_caches()


def test_the_example_of_a_station_works(station: int, petrel: Build, builder: Membership, viewer: Membership, stranger: Membership) -> None:
    assert station <= 75  # the promise is about sixty lines
    client, where = client_for(builder), address(petrel, "naming/")
    page = client.get(where)
    assert page.status_code == 200
    assert any(item.name == "Naming" and item.current for item in page.context["rail"])
    assert client.post(where, {"name": "Petrel of the harbour", "seen": petrel.name}).status_code == 200
    assert client.post(where, {"name": "Other", "seen": petrel.name}).status_code == 409
    assert client.post(where, {"name": "", "seen": "Petrel of the harbour"}).status_code == 422
    assert client_for(viewer).post(where, {"name": "x", "seen": "y"}).status_code == 403
    assert client_for(stranger).get(where).status_code == 404
    line = JournalEntry.objects.get(verb="name")
    assert (line.before, line.after, line.build_id) == (petrel.name, "Petrel of the harbour", petrel.pk)
    client.post(where, {"act": "undo", "entry": str(line.pk)})
    assert Build.objects.get(pk=petrel.pk).name == petrel.name
