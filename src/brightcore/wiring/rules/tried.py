"""The described bike tried in its circuit: does it light, rest, run, stop, and feed what hangs on
it?

What does not is named with its reason, from the solved circuit. A bike with a needed plug still
open is not tried: the other rules say what it lacks.
"""

from collections.abc import Iterator

from brightcore.analysis.bike import Analysis
from brightcore.analysis.rule import Found, rule
from brightcore.findings import Finding
from brightcore.wiring.tryout import Hindrance, tried

AT_REST = ("throttle-high", "throttle-error")
"""A throttle that asks for power while nobody pulls it."""


def _of(case: Analysis, *codes: str) -> Iterator[Hindrance]:
    return (item for item in tried(case.bike) if item.code in codes)


def _not_of(case: Analysis, *codes: str) -> Iterator[Hindrance]:
    return (item for item in tried(case.bike) if item.code not in codes)


@rule(
    "W080",
    "danger",
    "Switched on and untouched: {why}",
    (
        "Do not switch it on: find the open ground, the wire on a wrong pin or the limit set too "
        "low first."
    ),
)
def asks_at_rest(case: Analysis, found: Found) -> Iterator[Finding]:
    """A throttle that stands above the controller's start while nobody pulls it."""
    for item in _of(case, *AT_REST):
        yield found((item.part,), why=item.words)


@rule(
    "W081",
    "danger",
    "{why}",
    (
        "Put it right before the motor turns: this lever would not stop it. Prove every lever "
        "afterwards."
    ),
)
def does_not_stop(case: Analysis, found: Found) -> Iterator[Finding]:
    """A lever, gear sensor or stand switch that is connected and does not stop the motor."""
    for item in _of(case, "no-stop"):
        yield found((item.part,), why=item.words)


@rule(
    "W082",
    "fault",
    "Switched on, the {part} stays dark: {why}",
    "Put it right before the first power-up, or it looks like a dead part.",
)
def stays_dark(case: Analysis, found: Found) -> Iterator[Finding]:
    """A display that gets too little to light."""
    for item in _of(case, "dark"):
        yield found((item.part,), part=case.bike.part(item.part).name, why=item.words)


@rule(
    "W083",
    "fault",
    "It would not run: {why}",
    "Put it right before the first power-up, or it looks like a dead part.",
)
def does_not_run(case: Analysis, found: Found) -> Iterator[Finding]:
    """A motor that does not turn, by throttle or by pedals, and why."""
    for item in _not_of(case, *AT_REST, "no-stop", "dark", "not-fed", "slow"):
        yield found((item.part,), why=item.words)


@rule(
    "W084",
    "fault",
    "{why}",
    "Feed it from where its volts are, switched on: another output, or a converter.",
)
def is_not_fed(case: Analysis, found: Found) -> Iterator[Finding]:
    """A lamp, horn, converter or sensor that gets other volts than it is made for, or none."""
    for item in _of(case, "not-fed"):
        yield found((item.part,), why=item.words)


@rule(
    "W085",
    "fault",
    "Never at full speed: {why}",
    "Set the controller's end to what this throttle reaches, or fit another throttle.",
)
def never_full(case: Analysis, found: Found) -> Iterator[Finding]:
    """A throttle that, pulled all the way, asks for far less than all."""
    for item in _of(case, "slow"):
        yield found((item.part,), why=item.words)


RULES = (asks_at_rest, does_not_stop, stays_dark, does_not_run, is_not_fed, never_full)
