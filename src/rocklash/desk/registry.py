"""The stations of a build. One entry each: rail, addresses, tabs and the door tests are made from it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from importlib import import_module
from pathlib import Path

from django.urls import URLPattern, URLResolver, include, path, reverse

from rocklash.desk.bench import Bench

State = tuple[str, str]


@dataclass(frozen=True, kw_only=True)
class Station:
    """One station. `key` is also the name of its first address, `order` its place on the rail; one without a `state` is not on it.

    `state` tells the mark (done, work, none, waits, or a verdict) and a few words. `tabs` are (name of the address, words); `keeps` names what of a
    page's address goes along from tab to tab. `prefix` stands before its addresses, behind the build's own.
    """

    key: str
    name: str
    urls: Sequence[URLPattern]
    prefix: str
    order: int = 0
    number: str = ""
    state: Callable[[Bench], State] | None = None
    tabs: tuple[tuple[str, str], ...] = ()
    keeps: tuple[str, ...] = ()

    def address(self, bench: Bench, name: str = "") -> str:
        """Address of the station, or of one of its tabs, for a build."""
        return reverse(name or self.key, kwargs={"shop": bench.member.workshop.slug, "number": bench.build.pk})


@dataclass(frozen=True, kw_only=True)
class RailItem:
    """One station on the rail. `state` is done, work, none, waits or empty; of a `verdict` the mark is the verdict's."""

    number: str
    name: str
    url: str
    state: str
    words: str
    current: bool
    verdict: str = ""


@dataclass(frozen=True, kw_only=True)
class TabItem:
    """One tab of a station."""

    url: str
    words: str
    current: bool


VERDICTS = frozenset({"holds", "slim", "short", "unproven"})
_stations: dict[str, Station] = {}


def discover(package: str = "rocklash.stations") -> None:
    """Read the entry (`station.py`) of every folder of the package; a new folder is a new station."""
    root = Path(str(import_module(package).__path__[0]))
    for found in sorted(root.glob("*/station.py")):
        station: Station = import_module(f"{package}.{found.parent.name}.station").STATION
        _stations[station.key] = station


def stations() -> list[Station]:
    """All of them, in the order of the rail."""
    return sorted(_stations.values(), key=lambda station: station.order)


def station_of(key: str) -> Station:
    """One of them."""
    return _stations[key]


def addresses() -> list[URLResolver]:
    """The addresses of every station, behind workshop and build."""
    return [path(f"shop/<slug:shop>/build/<int:number>/{each.prefix}", include(list(each.urls))) for each in stations()]


def rail(bench: Bench, current: str) -> list[RailItem]:
    """The stations that exist, with their states; what is not built yet is not shown as if it were."""
    items = []
    for each in stations():
        if each.state is None:
            continue
        state, words = each.state(bench)
        verdict = state if state in VERDICTS else ""
        items.append(
            RailItem(
                number=each.number, name=each.name, url=each.address(bench), state="" if verdict else state, words=words,
                current=each.key == current, verdict=verdict,
            )
        )  # fmt: skip
    return items


def tabs(bench: Bench, current: str) -> list[TabItem]:
    """The tabs of a station; what its pages keep of their address goes along."""
    station, match = station_of(current), bench.request.resolver_match
    kept = "&".join(f"{name}={bench.side.value}" for name in station.keeps if name == "side")
    tail = f"?{kept}" if kept else ""
    here = match.url_name if match else ""
    return [TabItem(url=station.address(bench, name) + tail, words=words, current=name == here) for name, words in station.tabs]
