"""Legal classes as information: which fit a drive, and what would have to change. Local law
decides."""

from dataclasses import dataclass

DECIDES = (
    "This is information. Local law, the maker’s papers and your insurer decide; building or "
    "altering may change the vehicle’s class."
)


@dataclass(frozen=True, slots=True)
class LegalClass:
    """One class of a place. A limit of 0 means "no such limit"."""

    id: str
    place: str
    name: str
    rated_w: float
    assist_kmh: float
    throttle: str
    throttle_kmh: float
    note: str
    source: str


@dataclass(frozen=True, slots=True)
class Facts:
    """What counts for the law about one bike. `has_pedals` is None where nobody has said."""

    rated_w: float
    top_kmh: float
    has_throttle: bool
    has_pedals: bool | None


@dataclass(frozen=True, slots=True)
class Verdict:
    """Whether a class fits, and each thing that would have to change."""

    legal_class: LegalClass
    fits: bool
    changes: tuple[str, ...]


def judge(facts: Facts, classes: tuple[LegalClass, ...], place: str) -> tuple[Verdict, ...]:
    """Return a verdict for every class of a place, in table order; none for a place that is not in
    the table."""
    return tuple(_verdict(facts, c) for c in classes if c.place == place)


def _verdict(facts: Facts, c: LegalClass) -> Verdict:
    changes = []
    if c.rated_w and facts.rated_w > c.rated_w:
        changes.append(f"motor rated {c.rated_w:g} W or less (is {facts.rated_w:g} W)")
    if c.assist_kmh and facts.top_kmh > c.assist_kmh + 0.5:
        changes.append(
            f"assistance cut at {c.assist_kmh:.3g} km/h (goes {facts.top_kmh:.0f} km/h by itself)"
        )
    if facts.has_throttle and c.throttle == "none":
        changes.append("no throttle, or one to walking pace only")
    if (
        facts.has_throttle
        and c.throttle == "limited"
        and c.throttle_kmh
        and facts.top_kmh > c.throttle_kmh + 0.5
    ):
        changes.append(f"throttle cut at {c.throttle_kmh:.3g} km/h")
    if facts.has_pedals is None:
        changes.append("not said whether it has pedals that drive the wheel: see Describe")
    elif not facts.has_pedals:
        changes.append("working pedals (or hand cranks) that drive the wheel")
    return Verdict(c, not changes, tuple(changes))


def places(classes: tuple[LegalClass, ...]) -> tuple[str, ...]:
    """Return the places of a table, in order."""
    return tuple(dict.fromkeys(c.place for c in classes))
