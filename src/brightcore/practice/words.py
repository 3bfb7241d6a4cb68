"""What is seen at the practice bench, in words, and as evidence that the engine understands."""

from brightcore.behaviour.scene import Scene
from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike
from brightcore.practice.hidden import HiddenBike, Seen, seen_on
from brightcore.simulation.words import look_words
from brightcore.tracing.engine import Engine
from brightcore.tracing.evidence import Evidence
from brightcore.tracing.simulated import told

OPENINGS = {
    "switch_on": "When it is switched on",
    "throttle": "With the throttle",
    "pedal": "When the cranks are turned",
    "brake": "With a brake lever pulled",
    "pull": "Uphill",
    "spin": "When it is pushed by hand",
}
SIGNS = {
    "heard": "it makes a noise it did not make",
    "smelt": "it has smelled burnt",
    "hot": "something gets too hot to touch after a hill",
    "fast": "it goes faster than it should",
    "faded": "its range has gone",
}
LEANS = {"heard": "noise", "smelt": "smell", "faded": "range", "axle": "tingle"}
"""Signs that Trace knows as what a rider told, by their ids there."""

NOTHING = "Nothing in particular: the rider wants it looked over before a long way."
SOMETIMES = "It comes and goes."
MOST_SCENES = 2
"""Scenes that a rider tells of, at most."""


def phrase(bike: Bike, name: str, value: str) -> str:
    """Return one thing that is seen as a short phrase with its subject."""
    text = OBSERVABLES[name].words(value)
    base, _, part = name.partition("-")
    if base == "motor" and part:
        return f"motor at the {bike.part(part).name.lower()} {text}"
    if base == "speed" and value == "none":
        return "shown speed stays at 0"
    return look_words(bike, name, value, text)


def seen_words(bike: Bike, seen: Seen) -> str:
    """Return what is seen, in words."""
    joined = "; ".join(filter(None, (phrase(bike, name, value) for name, value in seen.items())))
    if joined:
        return f"{joined[0].upper()}{joined[1:]}."
    return ""


def evidence_of(engine: Engine, scene: Scene, seen: Seen, state: str = "") -> tuple[Evidence, ...]:
    """Return what was seen as evidence; nothing where the engine does not know such a scene."""
    if scene.id not in engine.table.scenes:
        return ()
    known = engine.table.scenes[scene.id].seen
    found = []
    for name, value in seen.items():
        if name in known:
            found.append(Evidence("look", value, scene=scene.id, observable=name, state=state))
    return tuple(found)


def complaint_words(hidden: HiddenBike) -> str:
    """Return what the rider says, from what the bike really does."""
    found = []
    for scene, odd in hidden.differs()[:MOST_SCENES]:
        opening = OPENINGS[scene.id.split(".")[0]]
        items = [phrase(hidden.circuit.bike, name, value) for name, value in odd.items()]
        found.append(f"{opening}: {', '.join(items)}.")
    for name in hidden.signs():
        found.append(f"{_upper(SIGNS[name])}.")
    if not found:
        return NOTHING
    return " ".join([*found, *([SOMETIMES] if hidden.comes_and_goes else [])])


def complaint_evidence(hidden: HiddenBike) -> tuple[Evidence, ...]:
    """Return what the rider says as evidence: the first scene that is not as it should be, and
    signs."""
    signs = tuple(Evidence("past", LEANS[name]) for name in hidden.signs() if name in LEANS)
    for scene, _ in hidden.differs()[:1]:
        seen = seen_on(hidden.faulty, scene)
        rows = []
        for name, value in seen.items():
            rows.append(Evidence("look", value, scene=scene.id, observable=name))
        items = tuple(rows)
        return (*told(items, sometimes=hidden.comes_and_goes), *signs)
    return signs


def _upper(words: str) -> str:
    return f"{words[0].upper()}{words[1:]}"
