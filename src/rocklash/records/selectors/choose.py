"""Reads of Choose: what was searched and decided, sisters, notes of a family, what the shelf has beside a part."""

from rocklash.records.models import Build, Decision, FamilyNote, Part, Search, SisterEngine, Workshop
from rocklash.records.selectors.builds import parts_that_fit
from valvetrain.parts.engine import Side

USUAL_WEIGHTS = [3.0, 1.0, 3.0, 2.0, 1.0]


def search_of(build: Build, side: Side) -> Search:
    """What was last asked for a side; an unkept one where nothing was."""
    found = Search.objects.filter(build=build, side=side.value).first()
    return found or Search(build=build, side=side.value, weights=USUAL_WEIGHTS)


def wished_days(build: Build) -> dict[str, int | None]:
    """Within how many days each side's set was wished for."""
    return dict(Search.objects.filter(build=build).values_list("side", "days"))


def decisions_of(build: Build) -> list[Decision]:
    """What was decided, newest first."""
    return list(Decision.objects.filter(build=build).select_related("by"))


def sisters_of(build: Build) -> list[SisterEngine]:
    """Sister engines with their parts."""
    return list(SisterEngine.objects.filter(engine=build.engine).prefetch_related("parts"))


def notes_of(workshop: Workshop, family: str) -> list[FamilyNote]:
    """What a workshop knows of a family; nothing where there is none."""
    return list(FamilyNote.objects.filter(workshop=workshop, family=family).select_related("by")) if family else []


def shim_sizes(workshop: Workshop) -> list[float]:
    """Thicknesses (m) of the spring shims on the shelf."""
    shims = Part.objects.filter(workshop=workshop, engine=None, kind="spring_shim").values_list("figures", flat=True)
    return [figures["thickness"]["value"] for figures in shims if "thickness" in figures]


def shelf_beside(build: Build) -> list[Part]:
    """Parts of the shelf that may go into a build."""
    return list(parts_that_fit(build).filter(engine=None))
