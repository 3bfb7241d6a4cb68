"""What a rider's own words may mean: suggestions only; what counts is what a technician confirms.

Word beginnings are common practice.
"""

import re
from collections.abc import Iterator

from brightcore.kinds import REGISTRY

SUGGESTS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("dark", ("dead", "dark", "nothing lights", "does not switch on", "won't turn on", "no power")),
    (
        "throttle-silent",
        ("throttle does nothing", "throttle dead", "no throttle", "grip does nothing"),
    ),
    ("pedal-silent", ("no help", "no assist", "pedalling", "pedaling", "does not assist")),
    ("rough", ("shudder", "judder", "rough", "jerk", "rattl", "grind")),
    ("twitch", ("twitch", "stutter", "kick")),
    ("cuts", ("cuts out", "cut out", "dies uphill", "stops uphill", "shuts off")),
    ("weak", ("slow", "weak", "no power uphill", "half speed")),
    ("free", ("wheel does not turn", "spins freely", "freewheels", "motor runs but")),
    ("brake-shown", ("brake symbol", "brake mark", "brake light stays")),
    ("error-hall", ("hall", "sensor error")),
    ("error-throttle", ("throttle error",)),
    ("error-communication", ("communication", "no signal error")),
    ("error-temperature", ("temperature error", "overheat")),
    ("speed-none", ("no speed", "speed stays", "speedo")),
    ("lamp-dark", ("lamp", "headlight", "no light")),
    ("drags", ("drag", "hard to push", "lumps")),
)
"""(symptom, beginnings of words or phrases that may mean it)."""


def _of_kinds() -> Iterator[tuple[str, tuple[str, ...]]]:
    """Yield what kinds of part say of their own symptoms."""
    for kind in REGISTRY:
        for symptom in kind.symptoms:
            if symptom.suggested_by:
                yield symptom.id, symptom.suggested_by


def suggested(text: str) -> tuple[str, ...]:
    """Return the ids of symptoms that a complaint may mean, in the order of `SUGGESTS`, then those
    that only one kind of part has."""
    plain = " ".join(text.lower().split())
    found = []
    for symptom, phrases in (*SUGGESTS, *_of_kinds()):
        if any(re.search(rf"\b{re.escape(phrase)}", plain) for phrase in phrases):
            found.append(symptom)
    return tuple(found)
