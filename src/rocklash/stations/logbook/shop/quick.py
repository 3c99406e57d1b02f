"""A run entered from anywhere in one line: 1.5 h on Sanderling."""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from rocklash.answers.logbook import seasons_words
from rocklash.commands.base import Refused
from rocklash.records.models import Build, RunEntry

_ON = re.compile(r"^(?P<what>.+?)\s+on\s+(?P<name>.+)$", re.IGNORECASE | re.DOTALL)
_PASSES = re.compile(r"^(\d{1,4})\s*pass(?:es)?$", re.IGNORECASE)
_SEASONS = re.compile(r"^(?:(\d{1,2})|one|a)\s*seasons?$", re.IGNORECASE)
_FUEL = re.compile(r"\d\s*(l|litres?|liters?|ml|cc|gal|gallons?)$", re.IGNORECASE)
_USUAL = (0.5, 1.0, 1.5, 2.0)
_NAMED, _OFFERED = 5, 4


@dataclass(frozen=True)
class Quick:
    """What one line says: the fields of a run, and the name it gives, empty where it gives none."""

    fields: dict[str, str]
    name: str


def read(text: str) -> Quick:
    """The line taken apart. Raises Refused for an empty one."""
    found = _ON.match(text.strip())
    what, name = (found["what"], found["name"].strip()) if found else (text.strip(), "")
    if not what:
        raise Refused("Write what it ran and on which engine: 1.5 h on Plover, 6 passes on Plover, 12 l on Plover, 1 season on Plover.")
    fields = {"ran": "", "passes": "", "fuel": "", "seasons": "", "note": "", "made_on": ""}
    passes = _PASSES.match(what)
    if passes:
        fields["passes"] = passes[1]
    elif seasons := _SEASONS.match(what):
        fields["seasons"] = seasons[1] or "1"
    elif _FUEL.search(what):
        fields["fuel"] = what
    else:
        fields["ran"] = what
    return Quick(fields, name)


def meant(name: str, builds: Iterable[Build]) -> Build:
    """The engine that a name means: the whole of it, else how it begins, else what stands in it. Raises Refused where none or more than one is meant."""
    listed = list(builds)
    wanted = name.casefold()
    for fits in (lambda words: words == wanted, lambda words: words.startswith(wanted), lambda words: wanted in words):
        found = [build for build in listed if fits(build.name.casefold())]
        if len(found) == 1:
            return found[0]
        if found:
            names = ", ".join(build.name for build in found[:_NAMED])
            raise Refused(f"“{name}” may be {names}{' or another' if len(found) > _NAMED else ''}: write more of its name.")
    raise Refused(f"There is no engine called “{name[:60]}” on the board.")


def _amount(run: RunEntry) -> str:
    if run.seconds:
        hours = run.seconds / 3600.0
        return f"{hours:.4g} h" if hours >= 1.0 or abs(hours * 60.0 % 1.0) > 1e-6 else f"{hours * 60.0:g} min"
    return f"{run.passes} passes" if run.passes else seasons_words(run.seasons)


def offers(runs: Iterable[RunEntry], build: Build | None) -> list[str]:
    """Lines to send with one press: what was entered last of this engine, or of any; else the usual ones of this engine."""
    found: dict[str, None] = {}
    for run in runs:
        if (words := _amount(run)) and (build is None or run.build_id == build.pk):
            found.setdefault(f"{words} on {run.build.name}")
    if build is not None:
        for hours in _USUAL:
            found.setdefault(f"{hours:g} h on {build.name}")
    return list(found)[:_OFFERED]
