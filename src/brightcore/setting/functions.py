"""Small functions, passed or failed: whatever a kind of part says it does (common practice)."""

from collections.abc import Mapping

from brightcore.bike.model import Bike
from brightcore.errors import UnknownNameError
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import OneThing
from brightcore.setting.contract import (
    Field,
    Instrument,
    Measured,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    next_step,
    verdict_of,
)

PASSED = (("pass", "does"), ("fail", "does not"))


class SmallFunctions(Instrument):
    """Something that works or does not."""

    key = "function"
    title = "Function"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every part that does one small thing."""
        found = []
        for p in bike.parts:
            if REGISTRY[p.kind].does is not None:
                found.append(Subject(p.id, p.name))
        return tuple(found)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Try it, and note the volts at its plug where they can be read."""
        question = _one_thing(bike, subject).question
        on = "Pack in, display on, wheel off the ground"
        gates = ("pack_safe", "wheel_up")
        volts = Field("volts", "Volts at its plug", "V", 0.0, 120.0, needed=False)
        return (Step("try", question, on, gates, (Field("does", "It", choices=PASSED), volts)),)

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Pass or fail."""
        part = bike.part(subject)
        findings = []
        if found.chosen("does") == "fail":
            change = _one_thing(bike, subject).look_at
            findings.append(
                SetFinding("S110", "fault", f"{part.name} does not do what it should", change)
            )
        volts = found.number("volts")
        values: tuple[Measured, ...] = ()
        if volts is not None:
            values = (Measured("volts", volts, "V", "at its plug"),)
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(findings, complete, f"{part.name} does what it should", values)


def _one_thing(bike: Bike, subject: str) -> OneThing:
    """Return what a part does; raises UnknownNameError for one that does nothing of its own."""
    part = bike.part(subject)
    does = REGISTRY[part.kind].does
    if does is None:
        raise UnknownNameError("function", part.kind, ())
    return does
