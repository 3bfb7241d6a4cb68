"""What is due on a bike after its visits (common practice; the maker's own intervals come
first)."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from brightcore.bike.model import Bike
from brightcore.kinds.modules import TrackerSpec
from brightcore.kinds.select import cutting, hub_motors, packs
from brightcore.procedure.rider import SECOND_VISIT

AGAIN = {
    "capacity": timedelta(days=365),
    "cut-off": timedelta(days=182),
    "axle": timedelta(days=91),
}
"""After how long something is looked at again."""


@dataclass(frozen=True, slots=True)
class Due:
    """Something to look at again: what, when, and why."""

    words: str
    on: date
    why: str

    def is_late(self, today: date) -> bool:
        """Return whether its day has passed."""
        return self.on < today


def due_on(bike: Bike, last_visit: date | None, last: Mapping[str, date]) -> tuple[Due, ...]:
    """Return what is due, soonest first.

    `last_visit`: the day the last job was closed; `last`: when something of `AGAIN` was last looked
    at. A bike that was never here has nothing due.
    """
    if last_visit is None:
        return ()
    visit = last_visit + SECOND_VISIT
    found = []
    for part in bike.having(TrackerSpec):
        if part.spec.renew_on:
            found.append(
                Due(
                    f"Renew the plan of {part.name}",
                    date.fromisoformat(part.spec.renew_on),
                    "as entered with it",
                )
            )
    found += [Due("Second visit: plugs, ties, nuts", visit, "four weeks after the last job")]
    asked = (
        ("capacity", bool(packs(bike)), "Pack capacity"),
        ("cut-off", bool(cutting(bike, "brake")), "Brake cut-offs"),
        ("axle", bool(hub_motors(bike)), "Axle nuts and torque arm"),
    )
    for name, has, words in asked:
        if has:
            begun = last.get(name, last_visit)
            if name in last:
                why = "since it was last looked at"
            else:
                why = "since the last job; not looked at then"
            found.append(Due(words, begun + AGAIN[name], f"{AGAIN[name].days} days {why}"))
    return tuple(sorted(found, key=lambda item: item.on))
