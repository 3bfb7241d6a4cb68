"""How long the way from one description to another takes: the difference, the order, a tick."""

import time
from collections.abc import Callable

from tests.bikes import generated_bike

from brightcore.bike.model import Bike
from brightcore.describing.swap import swap_part
from brightcore.procedure.first_power_up import find_first_power_up
from brightcore.procedure.stands import bare, changes_to
from brightcore.procedure.work_case import WorkCase
from brightcore.procedure.work_order import order_of_work

TARGET_S = 0.2
TIMES = 7


def _seconds(work: Callable[[], object]) -> float:
    """Return the median seconds of some work."""
    found = []
    for _ in range(TIMES):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return sorted(found)[TIMES // 2]


def _another_controller(bike: Bike) -> Bike:
    """Return the bike with its controller replaced by another of the same make."""
    old = next(part for part in bike.parts if part.kind == "controller")
    return swap_part(bike, old.id, old.kind, "Another controller", old.spec, old.ports).bike


def report(table: Callable[..., str]) -> str:
    """Return the times of a whole build and of one replaced controller on a bike of 40 parts."""
    bike = generated_bike(1, 40)
    ways = (
        ("a build from nothing", bare(bike), bike),
        ("its controller replaced", bike, _another_controller(bike)),
    )
    rows = []
    for name, start, plan in ways:
        begun = time.perf_counter()
        light = find_first_power_up(plan)
        tried = time.perf_counter() - begun

        def order(start: Bike = start, plan: Bike = plan, light: object = light) -> object:
            return order_of_work(WorkCase(start, start, plan, light))

        def difference(start: Bike = start, plan: Bike = plan) -> object:
            return changes_to(start, plan)

        sums = (_seconds(difference), _seconds(order))
        rows.append(
            (
                name,
                str(len(changes_to(start, plan))),
                str(len(order_of_work(WorkCase(start, start, plan, light)).steps)),
                f"{1e3 * sums[0]:.1f} ms",
                f"{1e3 * sums[1]:.0f} ms",
                f"{sum(sums) / TARGET_S:.0%}",
                f"{tried:.1f} s",
            )
        )
    head = (
        "way",
        "changes",
        "steps",
        "difference",
        "order",
        "of 200 ms",
        "trial of the first power-up, once",
    )
    return f"{len(bike.parts)} parts, {len(bike.joins)} joins.\n\n" + table(head, rows)
