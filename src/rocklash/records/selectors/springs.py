"""Read queries of what was measured of springs and seen of engines."""

from django.shortcuts import get_object_or_404

from rocklash.records.models import Build, Observation, Part, SpringLog, ValveFit, Weighing
from rocklash.records.selectors.builds import parts_that_fit


def observations_of(build: Build, side: str) -> list[Observation]:
    """What the engine was seen to do on one side, newest first."""
    return list(Observation.objects.select_related("by").filter(build=build, side=side))


def rested_on(build: Build) -> list[Observation]:
    """What predictions of either side rest on."""
    return list(Observation.objects.filter(build=build, in_use=True))


def observation_in_use(build: Build, side: str) -> Observation | None:
    """The observation that predictions of one side rest on."""
    return Observation.objects.filter(build=build, side=side, in_use=True).first()


def spring_or_404(build: Build, number: int) -> Part:
    """A spring that may go into a build; any other part answers 404."""
    return get_object_or_404(parts_that_fit(build).filter(kind="spring"), pk=number)


def newest_spring_logs(part: Part) -> tuple[SpringLog | None, SpringLog | None]:
    """The newest log of a spring, and the newest of when it was new."""
    logs = list(SpringLog.objects.select_related("by").filter(part=part))
    return (logs[0] if logs else None), next((log for log in logs if not log.used), None)


def valve_fits_of(build: Build, side: str) -> list[ValveFit]:
    """How the valves of the proposed side were found to stand."""
    found = ValveFit.objects.select_related("position", "by").filter(
        setup_side__setup__build=build, setup_side__setup__role="proposed", setup_side__side=side
    )
    return list(found)


def weighings_of(build: Build, side: str) -> list[Weighing]:
    """Parts of the proposed side that were weighed valve by valve."""
    found = Weighing.objects.select_related("position").filter(
        setup_side__setup__build=build, setup_side__setup__role="proposed", setup_side__side=side
    )
    return list(found)
