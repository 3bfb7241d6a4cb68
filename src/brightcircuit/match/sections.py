"""What the sections of Match show, each worked out only where it is looked at."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from brightcircuit.library.queries import parts as library_parts
from brightcircuit.match import cards, rides
from brightcircuit.match.plan import CHOICES, LOGGED, NUMBERS, Plan
from brightcircuit.shop.people import the_shop
from brightcore.bike.measured import measured_value
from brightcore.bike.model import Bike
from brightcore.describing.measured import measured_words
from brightcore.errors import RangeError
from brightcore.kinds import REGISTRY
from brightcore.kinds.select import mid_motors, packs
from brightcore.matching.cost import Option
from brightcore.setting.capacity import WORN_SHARE


@dataclass(frozen=True, slots=True)
class Question:
    """What Match is asked: the bike as worked with and as described, its plan, what was typed and
    is wrong.

    `repair`: the one that Trace names, None where it names none.
    """

    bike: Bike
    described: Bike
    plan: Plan
    typed: Mapping[str, str]
    errors: dict[str, str]
    repair: Option | None


def section_context(section: str, asked: Question) -> dict[str, Any]:
    """Return what the page of a section shows."""
    shared = {"plan": asked.plan, "errors": asked.errors, "typed": asked.typed}
    return shared | SECTIONS[section](asked)


def _chain(asked: Question) -> dict[str, Any]:
    return {"chain": cards.chain_card(asked.bike), "unread": cards.unread(asked.bike)}


def _ride(asked: Question) -> dict[str, Any]:
    bike, plan, errors, typed = asked.bike, asked.plan, asked.errors, asked.typed
    try:
        plan = replace(plan, used_km=cards.log_km(plan), used_ah=cards.log_ah(bike, plan))
    except RangeError as error:
        errors = {**errors, "log_from_v": str(error)}
    variants = rides.variants_of(bike, plan)
    numbers = []
    for f in NUMBERS:
        numbers.append(
            {
                "field": f,
                "value": typed.get(f.name, f"{getattr(plan, f.name):g}"),
                "error": errors.get(f.name, ""),
            }
        )
    choices = []
    for n, (label, options, _) in CHOICES.items():
        choices.append({"name": n, "label": label, "options": options, "value": getattr(plan, n)})
    logged = []
    for f in LOGGED:
        value = getattr(plan, f.name)
        shown = "" if value is None else f"{value:g}"
        logged.append({"field": f, "value": typed.get(f.name, shown)})
    motors = []
    for kind in REGISTRY:
        if kind.place == "motor":
            for p in library_parts(kind.name):
                motors.append(p)
    sprockets = []
    for motor in mid_motors(bike):
        for tooth in sorted(motor.spec.sprocket_teeth):
            sprockets.append(tooth)
    return {
        "errors": errors,
        "numbers": numbers,
        "choices": choices,
        "logged": logged,
        "ride": rides.ride_card(variants, plan),
        "sprockets": sprockets,
        "library": {
            "pack": library_parts("pack"),
            "controller": library_parts("controller"),
            "motor": motors,
        },
        "variants": list(enumerate(plan.variants)),
    }


def _curves(asked: Question) -> dict[str, Any]:
    variants = rides.variants_of(asked.bike, asked.plan)
    return {"ride": rides.ride_card(variants, asked.plan), "key": rides.key_of(variants)}


def _class(asked: Question) -> dict[str, Any]:
    variants = rides.variants_of(asked.bike, replace(asked.plan, variants=()))
    place = asked.plan.place or asked.bike.info.place or the_shop().place
    return {
        "legal": cards.class_card(asked.bike, variants[0].drive, replace(asked.plan, place=place))
    }


def _packs(asked: Question) -> dict[str, Any]:
    checks = []
    rows = measured_words(asked.described)
    for pack in packs(asked.described):
        held = measured_value(asked.described, pack.id, "capacity_ah")
        checks.append(
            {
                "pack": pack.name,
                "values": [row for row in rows if row.part == pack.name],
                "worn": held is not None and held.value < WORN_SHARE * pack.spec.capacity_ah,
            }
        )
    return {"packs": cards.packs_card(asked.bike), "checks": checks}


def _cost(asked: Question) -> dict[str, Any]:
    return {
        "costs": cards.cost_card(asked.bike, asked.plan, asked.repair),
        "tally": cards.tally_card(asked.bike, asked.plan),
    }


SECTIONS: dict[str, Callable[[Question], dict[str, Any]]] = {
    "chain": _chain,
    "ride": _ride,
    "curves": _curves,
    "class": _class,
    "packs": _packs,
    "cost": _cost,
}
"""What each section shows, by the name of its template."""
