"""What the sections of Match show, each worked out only where it is looked at."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, replace

from brightcircuit.common.shown import Context, Shown
from brightcircuit.library.models import LibraryPart
from brightcircuit.library.queries import parts as library_parts
from brightcircuit.match import cards, rides
from brightcircuit.match.plan import CHOICES, LOGGED, NUMBERS, Exchanged, Field, Plan
from brightcircuit.shop.people import the_shop
from brightcore.bike.measured import measured_value
from brightcore.bike.model import Bike
from brightcore.describing.measured import MeasuredWords, measured_words
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


def section_context(section: str, asked: Question) -> Context:
    """Return what the page of a section shows."""
    shared = {"plan": asked.plan, "errors": asked.errors, "typed": asked.typed}
    return shared | SECTIONS[section](asked).context()


@dataclass(frozen=True)
class ChainSection(Shown):
    """The chain of current, and the ratings that nobody has read."""

    chain: cards.ChainCard
    unread: list[str]


def _chain(asked: Question) -> Shown:
    return ChainSection(
        chain=cards.chain_card(asked.bike),
        unread=cards.unread(asked.bike),
    )


@dataclass(frozen=True, slots=True)
class NumberField:
    """A number of the plan, as typed or as it stands."""

    field: Field
    value: str
    error: str


@dataclass(frozen=True, slots=True)
class ChoiceField:
    """A choice of the plan."""

    name: str
    label: str
    options: tuple[str, ...]
    value: str


@dataclass(frozen=True, slots=True)
class LoggedField:
    """A figure of the own log, as typed or as it stands."""

    field: Field
    value: str


@dataclass(frozen=True, slots=True)
class OwnParts:
    """What the library has to vary a bike with."""

    pack: Collection[LibraryPart]
    controller: Collection[LibraryPart]
    motor: list[LibraryPart]


@dataclass(frozen=True)
class RideSection(Shown):
    """What riding shows."""

    errors: dict[str, str]
    numbers: list[NumberField]
    choices: list[ChoiceField]
    logged: list[LoggedField]
    ride: rides.RideCard
    sprockets: list[int]
    library: OwnParts
    variants: list[tuple[int, Exchanged]]


def _ride(asked: Question) -> Shown:
    bike, plan, errors, typed = asked.bike, asked.plan, asked.errors, asked.typed
    try:
        plan = replace(plan, used_km=cards.log_km(plan), used_ah=cards.log_ah(bike, plan))
    except RangeError as error:
        errors = {**errors, "log_from_v": str(error)}
    variants = rides.variants_of(bike, plan)
    numbers = []
    for f in NUMBERS:
        numbers.append(
            NumberField(
                field=f,
                value=typed.get(f.name, f"{getattr(plan, f.name):g}"),
                error=errors.get(f.name, ""),
            )
        )
    choices = []
    for n, (label, options, _) in CHOICES.items():
        choices.append(
            ChoiceField(
                name=n,
                label=label,
                options=options,
                value=getattr(plan, n),
            )
        )
    logged = []
    for f in LOGGED:
        value = getattr(plan, f.name)
        shown = "" if value is None else f"{value:g}"
        logged.append(
            LoggedField(
                field=f,
                value=typed.get(f.name, shown),
            )
        )
    motors = []
    for kind in REGISTRY:
        if kind.place == "motor":
            for p in library_parts(kind.name):
                motors.append(p)
    sprockets = []
    for motor in mid_motors(bike):
        for tooth in sorted(motor.spec.sprocket_teeth):
            sprockets.append(tooth)
    return RideSection(
        errors=errors,
        numbers=numbers,
        choices=choices,
        logged=logged,
        ride=rides.ride_card(variants, plan),
        sprockets=sprockets,
        library=OwnParts(
            pack=library_parts("pack"),
            controller=library_parts("controller"),
            motor=motors,
        ),
        variants=list(enumerate(plan.variants)),
    )


@dataclass(frozen=True)
class CurvesSection(Shown):
    """The curves of the variants, and their key."""

    ride: rides.RideCard
    key: list[dict[str, str]]


def _curves(asked: Question) -> Shown:
    variants = rides.variants_of(asked.bike, asked.plan)
    return CurvesSection(
        ride=rides.ride_card(variants, asked.plan),
        key=rides.key_of(variants),
    )


@dataclass(frozen=True)
class ClassSection(Shown):
    """What the legal classes say."""

    legal: cards.ClassCard


def _class(asked: Question) -> Shown:
    variants = rides.variants_of(asked.bike, replace(asked.plan, variants=()))
    place = asked.plan.place or asked.bike.info.place or the_shop().place
    return ClassSection(
        legal=cards.class_card(asked.bike, variants[0].drive, replace(asked.plan, place=place)),
    )


@dataclass(frozen=True, slots=True)
class PackCheck:
    """What was measured of a pack."""

    pack: str
    values: list[MeasuredWords]
    worn: bool


@dataclass(frozen=True)
class PacksSection(Shown):
    """Several packs, and what was measured of each."""

    packs: cards.PacksCard | None
    checks: list[PackCheck]


def _packs(asked: Question) -> Shown:
    checks = []
    rows = measured_words(asked.described)
    for pack in packs(asked.described):
        held = measured_value(asked.described, pack.id, "capacity_ah")
        checks.append(
            PackCheck(
                pack=pack.name,
                values=[row for row in rows if row.part == pack.name],
                worn=held is not None and held.value < WORN_SHARE * pack.spec.capacity_ah,
            )
        )
    return PacksSection(
        packs=cards.packs_card(asked.bike),
        checks=checks,
    )


@dataclass(frozen=True)
class CostSection(Shown):
    """Repair beside replacing, and what building the bike costs."""

    costs: list[cards.CostRow]
    tally: cards.TallyCard


def _cost(asked: Question) -> Shown:
    # Where nobody has said what an hour costs the page says so, and counts parts alone.
    rate = float(the_shop().rate or 0)
    return CostSection(
        costs=cards.cost_card(asked.bike, asked.plan, asked.repair, rate),
        tally=cards.tally_card(asked.bike, asked.plan, rate),
    )


SECTIONS: dict[str, Callable[[Question], Shown]] = {
    "chain": _chain,
    "ride": _ride,
    "curves": _curves,
    "class": _class,
    "packs": _packs,
    "cost": _cost,
}
"""What each section shows, by the name of its template."""
