"""Repair against replace: what each way costs now and per kilometre, what it keeps and what it
loses."""

from dataclasses import dataclass

from brightcore.errors import require

PARTS = {"free": 0.0, "cheap": 25.0, "middling": 80.0, "dear": 260.0, "pack": 450.0}
"""Usual part cost by a repair's cost level 0–4, in the shop's money (common practice; the shop's
own figures come first)."""

LEVELS = tuple(PARTS.values())


@dataclass(frozen=True, slots=True)
class Option:
    """One way to go on. Money in the shop's own currency, life in km."""

    id: str
    title: str
    parts_cost: float
    minutes: float
    life_km: float
    resale: float
    keeps: str
    loses: str


@dataclass(frozen=True, slots=True)
class Costed:
    """An option with its cost now, and per km over its life with resale taken off."""

    option: Option
    cost: float
    per_km: float


def cost_option(option: Option, labour_per_hour: float) -> Costed:
    """Return an option costed. Raises RangeError for negative money or a life of nothing."""
    require("labour_per_hour", labour_per_hour, 0.0, 10000.0)
    require("parts_cost", option.parts_cost, 0.0, 1e6)
    require("minutes", option.minutes, 0.0, 10000.0, "min")
    require("life_km", option.life_km, 1.0, 1e6, "km")
    require("resale", option.resale, 0.0, 1e6)
    cost = option.parts_cost + labour_per_hour * option.minutes / 60
    return Costed(option, cost, max(cost - option.resale, 0.0) / option.life_km)


def usual_options(pack_wh: float, locked: bool) -> tuple[Option, ...]:
    """Return the options to begin with; those of a locked system only where it is one (common
    practice)."""
    pack = 0.75 * pack_wh
    always = (
        Option(
            "controller",
            "Replace the controller",
            90.0,
            45,
            8000,
            40.0,
            "pack, motor, most plugs",
            "settings, perhaps the display",
        ),
        Option(
            "motor",
            "Replace the motor",
            280.0,
            120,
            12000,
            120.0,
            "pack, controller if it suits",
            "wheel build or bracket work",
        ),
        Option("pack", "Replace the pack", pack, 20, 15000, 0.3 * pack, "everything else", ""),
        Option(
            "bike",
            "Replace the whole bike",
            1800.0,
            60,
            20000,
            700.0,
            "",
            "what the rider knows and has fitted",
        ),
    )
    opened: tuple[Option, ...] = ()
    if locked:
        opened = (
            Option(
                "rebuild",
                "Rebuild the cells in the pack’s own case",
                0.55 * pack_wh,
                240,
                12000,
                0.2 * pack,
                "case, lock, charger, display",
                "stays locked; only for people qualified for packs",
            ),
            Option(
                "open-motor",
                "Bring the motor’s wires out to an open controller",
                160.0,
                240,
                10000,
                60.0,
                "motor, pack, frame look",
                "built-in torque sensing: add a crank sensor; maker’s display",
            ),
            Option(
                "new-drive",
                "Change the drive and keep the pack",
                420.0,
                300,
                12000,
                150.0,
                "pack, lights",
                "maker’s drive and display; may change the class",
            ),
        )
    return always + opened


def build_tally(
    lines: tuple[tuple[str, float], ...], minutes: float, labour_per_hour: float
) -> float:
    """Return the cost of a build: parts and labour. Raises RangeError for negative money."""
    for name, cost in lines:
        require(name, cost, 0.0, 1e6)
    require("minutes", minutes, 0.0, 100000.0, "min")
    return (
        sum(cost for _, cost in lines)
        + require("labour_per_hour", labour_per_hour, 0.0, 10000.0) * minutes / 60
    )
