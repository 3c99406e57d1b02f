"""Read queries of visits to the machine shop."""

from rocklash.records.models import Build, ShopOrder, ShopReading


def order_of(build: Build) -> ShopOrder | None:
    """The visit under way, or else the last one."""
    orders = list(ShopOrder.objects.filter(build=build).select_related("by"))
    return next((order for order in orders if order.closed_at is None), orders[0] if orders else None)


def orders_before(build: Build, order: ShopOrder | None) -> list[ShopOrder]:
    """Visits that are over, without the one shown."""
    return [each for each in ShopOrder.objects.filter(build=build) if order is None or each.pk != order.pk]


def readings_of(order: ShopOrder) -> dict[tuple[int | None, str, str], ShopReading]:
    """What was measured of an order, by valve (None for the head), measure and stage."""
    return {(row.position_id, row.measure, row.stage): row for row in ShopReading.objects.filter(order=order).select_related("by")}
