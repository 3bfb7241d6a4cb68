"""Small functions, passed or failed: gear sensor, stand switch, lamps, horn (common practice)."""

from collections.abc import Mapping

from brightcore.bike.model import Bike
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

DOES = {
    "gear_sensor": (
        "Shift under a touch of power: does the motor pause for an instant, at every shift?",
        "Thread the shift cable through it anew, or set its sensitivity; look at its plug.",
    ),
    "stand_switch": (
        "Stand down: does the motor stay off? Stand up: does it run?",
        "Bring its magnet closer, or look at the switch and its plug.",
    ),
    "lamp": (
        "Does it light with the light switched on, and go out again?",
        "Lamp, plug, then the light output.",
    ),
    "brake_lamp": (
        "Does it glow with the lights, and shine with either brake pulled?",
        "Lamp, plug, then the wire of each brake.",
    ),
    "light_switch": (
        "Does it switch the lights on, and off again?",
        "Switch, plug, then the light output of the controller.",
    ),
    "mode_switch": (
        "Wheel up, the same throttle: is one position clearly slower than the other?",
        (
            "Its plug and the controller's mode input; some controllers take a change only at a "
            "standstill."
        ),
    ),
    "key_switch": (
        "Off: is everything dark, also with the throttle touched? On: does it start at once?",
        "Switch and plug; a switch that stays on drains the pack over weeks.",
    ),
    "cell_alarm": (
        "Set it above the lowest group for a moment: does it sound?",
        "Balance plug fully home, its setting, then another alarm.",
    ),
    "horn": ("Does it sound, loud and at once?", "Horn, plug, then its button."),
}
"""What each kind must do, and what to look at where it does not."""

PASSED = (("pass", "does"), ("fail", "does not"))


class SmallFunctions(Instrument):
    """Something that works or does not."""

    key = "function"
    title = "Function"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every part that does one small thing."""
        found = []
        for p in bike.parts:
            if p.kind in DOES:
                found.append(Subject(p.id, p.name))
        return tuple(found)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Try it, and note the volts at its plug where they can be read."""
        question, _ = DOES[bike.part(subject).kind]
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
            _, change = DOES[part.kind]
            findings.append(
                SetFinding("S110", "fault", f"{part.name} does not do what it should", change)
            )
        volts = found.number("volts")
        values: tuple[Measured, ...] = ()
        if volts is not None:
            values = (Measured("volts", volts, "V", "at its plug"),)
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(findings, complete, f"{part.name} does what it should", values)
