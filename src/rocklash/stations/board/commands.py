"""Starting builds: from a template, from a build file."""

from django.db import transaction

from rocklash.commands.builds import keep_record
from rocklash.records.figure_column import stored_figure
from rocklash.records.models import Build, Membership
from valvetrain.errors import BuildFileError, QuantityError
from valvetrain.formats import build_file
from valvetrain.parts.catalogue import FIGURES, Owner
from valvetrain.parts.engine import Adjuster, EngineKind, Follower, Gear, Side, Use
from valvetrain.parts.figure import Basis
from valvetrain.parts.record import BuildRecord, SideRecord
from valvetrain.quantities import parse
from valvetrain.units import UnitSystem

_TYPED = {"bore": Owner.ENGINE, "stroke": Owner.ENGINE, "limiter": Owner.ENGINE, "goal_rpm": Owner.GOAL, "boost": Owner.GOAL}


class FieldTroubles(Exception):  # noqa: N818  (it carries troubles, it is not one)
    """Sentences by field name."""

    def __init__(self, sentences: dict[str, str]) -> None:
        super().__init__("; ".join(sentences.values()))
        self.sentences = sentences


@transaction.atomic
def start_build(member: Membership, data: dict[str, str]) -> Build:
    """Make an engine of a kind and its build; figures that were typed are kept as typed. Raises FieldTroubles."""
    system, sentences, columns = UnitSystem(member.user.unit_system), {}, {Owner.ENGINE: {}, Owner.GOAL: {}}  # type: ignore[var-annotated]
    for key, owner in _TYPED.items():
        text = data.get(key, "").strip()
        if not text:
            continue
        try:
            row = FIGURES[owner, key]
            typed = parse(text, row.kind, system)
            row.check(typed.value, system)
        except QuantityError as error:
            sentences[key] = str(error)
        else:
            columns[owner][key] = stored_figure(owner, key, typed.value, Basis.CARD, typed.text, typed.unit, member.user.username, "")
    if sentences:
        raise FieldTroubles(sentences)
    per_side = 1 if data["gear"] == Gear.SIDE_VALVE else int(data["valves_per_side"])
    kind = EngineKind(int(data["cylinders"]), per_side, Gear(data["gear"]), Follower(data["follower"]), Adjuster(data["adjuster"]))
    empty = {side: SideRecord() for side in Side}
    build = keep_record(member, BuildRecord(data["name"].strip(), kind, {}, {}, Use(data["use"]), (), empty, empty))
    build.figures, build.engine.figures = columns[Owner.GOAL], columns[Owner.ENGINE]
    build.save(update_fields=["figures"])
    build.engine.save(update_fields=["figures"])
    return build


def import_file(member: Membership, raw: bytes) -> Build:
    """Make a build of a build file; nothing is kept by halves. Raises BuildFileError with place and trouble."""
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BuildFileError(f"This is not text in UTF-8 (byte {error.start}). Choose the .json file itself.") from error
    return keep_record(member, build_file.read(text))
