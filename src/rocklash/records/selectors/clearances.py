"""Read queries of shims on the shelf and of signed sheets."""

from rocklash.records.models import Build, ClearanceSession, ShimMove, ShimStock, Workshop


def shims_of(workshop: Workshop) -> list[ShimStock]:
    """The shelf, thinnest first."""
    return list(ShimStock.objects.filter(workshop=workshop))


def shims_for(build: Build) -> list[ShimStock]:
    """Shims of the shelf that have the shape this engine takes; those without a shape where none is told of the engine."""
    return list(ShimStock.objects.filter(workshop=build.workshop, shape=build.engine.shim_shape))


def shim_moves_of(workshop: Workshop) -> list[ShimMove]:
    """The last moves on the shelf."""
    return list(ShimMove.objects.select_related("stock", "by").filter(stock__workshop=workshop)[:20])


def sheets_of(build: Build) -> list[ClearanceSession]:
    """Sheets of a build that carry engine hours, oldest first, with their readings."""
    rows = ClearanceSession.objects.filter(build=build, hours__isnull=False).prefetch_related("readings__position")
    return list(rows.order_by("hours", "started_at"))
