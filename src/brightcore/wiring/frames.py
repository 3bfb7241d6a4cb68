"""Frames: each a small graph of named stretches along which cables run, one constant and one line
in `FRAMES`.

Lengths are those of usual frames of the kind, to be corrected by measuring (common practice, no
published source). A stretch that moves has a joint; one that is wet or hot has a risk; one that is
refused has the reason.
"""

from dataclasses import dataclass, replace


@dataclass(frozen=True, slots=True)
class Stretch:
    """A way between two places.

    `joint`: "steering", "suspension" or "fold"; `risk`, `refused`: words, or "".
    """

    id: str
    a: str
    b: str
    length_m: float
    along: str
    joint: str = ""
    risk: str = ""
    refused: str = ""


@dataclass(frozen=True, slots=True)
class FramePattern:
    """A frame: its places with their words, its stretches, and where kinds of part sit otherwise
    than usual."""

    title: str
    places: tuple[tuple[str, str], ...]
    stretches: tuple[Stretch, ...]
    usual: tuple[tuple[str, str], ...] = ()

    def words(self, place: str) -> str:
        """Return a place in words."""
        return dict(self.places).get(place, place)

    def open_places(self) -> tuple[tuple[str, str], ...]:
        """Return (place, words) of every place that a cable may reach."""
        found = []
        for p, w in self.places:
            if not all(s.refused for s in self.stretches if p in (s.a, s.b)):
                found.append((p, w))
        return tuple(found)

    def stretch_words(self, stretch: Stretch) -> str:
        """Return a stretch in words: its two places."""
        return f"{self.words(stretch.a)} to {self.words(stretch.b)}"


SLACK_M = {"steering": 0.12, "suspension": 0.08, "fold": 0.15}
"""Slack a cable needs where it passes a joint, so that nothing pulls at full travel (common
practice)."""

JOINT_WORDS = {"steering": "the steering", "suspension": "the suspension", "fold": "the fold"}
CROWN = "At the fork crown the cable is pinched at full lock."
TYRE = "Between stays and tyre the tyre rubs it through."
CHAIN = "The chain runs there and takes it along."
SPRAY = "water: in the spray of the wheel, plugs point down"
WARM = "heat: beside the brake rotor, keep 30 mm clear"

PLACES = (
    ("bar", "handlebar"),
    ("head", "steering head"),
    ("fork", "fork"),
    ("front_axle", "front axle"),
    ("down_tube", "down tube"),
    ("bracket", "bottom bracket"),
    ("seat", "seat tube"),
    ("rack", "rear rack"),
    ("rear_axle", "rear axle"),
    ("fork_crown", "fork crown"),
    ("rear_tyre", "rear tyre"),
    ("chain_side", "chain side"),
)
DIAMOND = FramePattern(
    "Diamond frame",
    PLACES,
    (
        Stretch(
            "bar-head", "bar", "head", 0.35, "with the brake line to the head tube", "steering"
        ),
        Stretch("bar-fork", "bar", "fork", 0.40, "down beside the steerer, it turns with the bar"),
        Stretch(
            "head-fork",
            "head",
            "fork",
            0.35,
            "in an open loop in front of the head tube",
            "steering",
        ),
        Stretch(
            "fork-axle",
            "fork",
            "front_axle",
            0.45,
            "down the fork leg with the brake line",
            "",
            WARM,
        ),
        Stretch("head-tube", "head", "down_tube", 0.30, "along the down tube"),
        Stretch(
            "tube-bracket",
            "down_tube",
            "bracket",
            0.35,
            "along the down tube to the bottom bracket",
            "",
            SPRAY,
        ),
        Stretch("head-seat", "head", "seat", 0.55, "under the top tube"),
        Stretch("bracket-seat", "bracket", "seat", 0.45, "up the seat tube"),
        Stretch(
            "bracket-axle", "bracket", "rear_axle", 0.50, "along the left chain stay", "", SPRAY
        ),
        Stretch("seat-axle", "seat", "rear_axle", 0.55, "down the left seat stay", "", WARM),
        Stretch("seat-rack", "seat", "rack", 0.35, "along the seat stay to the rack"),
        Stretch("rack-axle", "rack", "rear_axle", 0.50, "down the rack's strut"),
        Stretch(
            "head-crown",
            "head",
            "fork_crown",
            0.08,
            "over the fork crown",
            "steering",
            refused=CROWN,
        ),
        Stretch("crown-fork", "fork_crown", "fork", 0.10, "over the fork crown", refused=CROWN),
        Stretch(
            "bracket-tyre",
            "bracket",
            "rear_tyre",
            0.12,
            "between chain stays and tyre",
            refused=TYRE,
        ),
        Stretch(
            "tyre-axle",
            "rear_tyre",
            "rear_axle",
            0.33,
            "between chain stays and tyre",
            refused=TYRE,
        ),
        Stretch(
            "bracket-chain",
            "bracket",
            "chain_side",
            0.10,
            "inside the right chain stay",
            refused=CHAIN,
        ),
        Stretch(
            "chain-axle",
            "chain_side",
            "rear_axle",
            0.36,
            "inside the right chain stay",
            refused=CHAIN,
        ),
    ),
)


def _like(
    base: FramePattern,
    title: str,
    lengths: dict[str, float],
    joints: dict[str, str] | None = None,
    usual: tuple[tuple[str, str], ...] = (),
) -> FramePattern:
    """Return a frame like another, with other lengths, joints and usual places."""
    joints = joints or {}
    rows = []
    for s in base.stretches:
        rows.append(
            replace(s, length_m=lengths.get(s.id, s.length_m), joint=joints.get(s.id, s.joint))
        )
    stretches = tuple(rows)
    return FramePattern(
        title, base.places, stretches, tuple({**dict(base.usual), **dict(usual)}.items())
    )


STEP = _like(
    DIAMOND,
    "Step-through, pack on the rack",
    {"head-seat": 0.85, "seat-rack": 0.40},
    usual=(("pack", "rack"), ("controller", "seat")),
)
SUSPENDED = _like(
    DIAMOND,
    "Full suspension",
    {"bracket-axle": 0.55},
    {"bracket-axle": "suspension", "seat-axle": "suspension", "fork-axle": "suspension"},
)
FOLDING = _like(
    DIAMOND,
    "Folding frame",
    {
        "bar-head": 0.75,
        "bar-fork": 0.80,
        "fork-axle": 0.28,
        "head-seat": 0.60,
        "bracket-axle": 0.35,
        "seat-axle": 0.45,
        "rack-axle": 0.30,
    },
    {"bar-fork": "fold", "tube-bracket": "fold", "head-seat": "fold"},
    (("pack", "seat"), ("controller", "seat")),
)
LONGTAIL = _like(
    DIAMOND,
    "Longtail",
    {"seat-rack": 0.60, "bracket-axle": 0.85, "seat-axle": 0.90, "rack-axle": 0.55},
    usual=(("pack", "seat"), ("controller", "rack"), ("combiner", "seat")),
)
TANDEM = _like(
    DIAMOND,
    "Tandem",
    {"tube-bracket": 0.95, "head-seat": 1.35, "bracket-axle": 0.50},
    usual=(("controller", "seat"), ("combiner", "seat")),
)
FRONT_LOADER = _like(
    DIAMOND,
    "Front loader",
    {"bar-head": 0.45, "head-tube": 0.45, "bar-fork": 1.35, "head-fork": 0.9, "fork-axle": 0.35},
    {"bar-fork": "steering"},
)
CART = FramePattern(
    "Cart, one motor a side",
    (
        ("bar", "handle"),
        ("frame", "middle of the frame"),
        ("left_axle", "left axle"),
        ("right_axle", "right axle"),
        ("left_tyre", "left tyre"),
        ("right_tyre", "right tyre"),
    ),
    (
        Stretch("bar-frame", "bar", "frame", 0.90, "down the handle"),
        Stretch("frame-left", "frame", "left_axle", 0.45, "along the cross tube", "", SPRAY),
        Stretch("frame-right", "frame", "right_axle", 0.45, "along the cross tube", "", SPRAY),
        Stretch("bar-tyre-left", "bar", "left_tyre", 0.70, "past the wheel", refused=TYRE),
        Stretch("tyre-left", "left_tyre", "left_axle", 0.20, "past the wheel", refused=TYRE),
        Stretch("bar-tyre-right", "bar", "right_tyre", 0.70, "past the wheel", refused=TYRE),
        Stretch("tyre-right", "right_tyre", "right_axle", 0.20, "past the wheel", refused=TYRE),
    ),
    (
        ("pack", "frame"),
        ("controller", "frame"),
        ("display", "bar"),
        ("throttle", "bar"),
        ("brake_lever", "bar"),
        ("magnetic_cut_off", "bar"),
        ("lamp", "frame"),
    ),
)
CLIP_ON = FramePattern(
    "Clip-on drive",
    (
        ("bar", "hand cranks and bar"),
        ("column", "column"),
        ("clip", "clip at the chair"),
        ("fork", "fork"),
        ("front_axle", "front axle"),
        ("fork_crown", "fork crown"),
    ),
    (
        Stretch(
            "bar-column",
            "bar",
            "column",
            0.35,
            "down the column, slack for the turning cranks",
            "steering",
        ),
        Stretch("column-clip", "column", "clip", 0.40, "along the clip's tube", "fold"),
        Stretch("bar-fork", "bar", "fork", 0.50, "with the brake line down the fork"),
        Stretch(
            "column-fork", "column", "fork", 0.30, "in an open loop beside the column", "steering"
        ),
        Stretch(
            "fork-axle",
            "fork",
            "front_axle",
            0.30,
            "down the fork leg with the brake line",
            "",
            WARM,
        ),
        Stretch(
            "column-crown",
            "column",
            "fork_crown",
            0.08,
            "over the fork crown",
            "steering",
            refused=CROWN,
        ),
        Stretch("crown-fork", "fork_crown", "fork", 0.08, "over the fork crown", refused=CROWN),
    ),
    (
        ("pack", "column"),
        ("controller", "column"),
        ("display", "bar"),
        ("throttle", "bar"),
        ("brake_lever", "bar"),
        ("magnetic_cut_off", "bar"),
        ("lamp", "fork"),
    ),
)
FRAMES: dict[str, FramePattern] = {
    "diamond": DIAMOND,
    "step-through": STEP,
    "suspension": SUSPENDED,
    "folding": FOLDING,
    "longtail": LONGTAIL,
    "tandem": TANDEM,
    "front-loader": FRONT_LOADER,
    "cart": CART,
    "clip-on": CLIP_ON,
}
