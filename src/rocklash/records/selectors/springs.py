"""Read queries of what was measured of springs and seen of engines."""

from rocklash.records.models import Build, Observation


def observations_of(build: Build, side: str) -> list[Observation]:
    """What the engine was seen to do on one side, newest first."""
    return list(Observation.objects.select_related("by").filter(build=build, side=side))


def observation_in_use(build: Build, side: str) -> Observation | None:
    """The observation that predictions of one side rest on."""
    return Observation.objects.filter(build=build, side=side, in_use=True).first()
