"""Brake cut-off: where along the lever's travel the motor is cut, for both schools (common practice)."""

from collections.abc import Mapping

from brightcore.bike.model import Bike
from brightcore.kinds.levers import CutOffSpec, LeverSpec
from brightcore.setting.contract import (
    YES_NO,
    Band,
    Field,
    Instrument,
    Mark,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    next_step,
    verdict_of,
)

LONGEST_MM = 120.0
FREE_SHARE = 0.15
"""Free play of a lever as a share of the way to the bite, where it was not measured (common practice)."""

EARLY_TO, LATE_FROM = 0.6, 0.5
"""Early: from the free play to this share of the way left to the bite. Late: from this share to the bite."""

WIDE_HYSTERESIS = 0.5
"""Way between cutting and off again, as a share of the way to the bite, from which a magnet is weak."""

OFF_ON = (("off", "symbol off"), ("on", "symbol on"))

SCHOOLS = (
    ("early", "early: the lever is a cut button, before the pads touch"),
    ("late", "late: only after some real pull, so that bumps and resting fingers do not trip it"),
)


def target_mm(school: str, free_mm: float, bite_mm: float) -> tuple[float, float]:
    """Return where the cut should lie along the lever's travel, after the free play and not after the bite.

    >>> target_mm("early", 4.0, 24.0), target_mm("late", 4.0, 24.0)
    ((4.0, 16.0), (14.0, 24.0))
    """
    way = bite_mm - free_mm
    if school == "late":
        return free_mm + LATE_FROM * way, bite_mm
    return free_mm, free_mm + EARLY_TO * way


class CutOff(Instrument):
    """Positions of a lever at which the symbol on the display goes on and off."""

    key = "cut-off"
    title = "Brake cut-off"
    options = (("school", "When it should act", SCHOOLS),)

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every lever with a cut-off, and every one added to a lever."""
        return tuple(Subject(p.id, p.name) for p in bike.parts if isinstance(p.spec, LeverSpec | CutOffSpec))

    def steps(self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None) -> tuple[Step, ...]:
        """Rest, wiggle, travel, then the proof with the motor turning."""
        on = "Pack in, display on, wheel off the ground, throttle untouched"
        return (
            Step(
                "rest",
                "Let the lever go: is the symbol off?",
                on,
                ("pack_safe", "wheel_up"),
                (Field("rest", "At rest", choices=OFF_ON),),
            ),
            Step(
                "wiggle",
                "Wiggle the lever and knock the bar: does the symbol stay off?",
                on,
                (),
                (Field("wiggle", "Wiggled", choices=OFF_ON),),
            ),
            Step(
                "travel",
                "Pull slowly. Where does the symbol come on, where do the pads bite?",
                on,
                (),
                (
                    Field("cut_mm", "Cuts at", "mm", 0.0, LONGEST_MM),
                    Field("bite_mm", "Pads bite at", "mm", 1.0, LONGEST_MM),
                    Field("bar_mm", "Lever at the bar", "mm", 1.0, LONGEST_MM, needed=False),
                    Field("free_mm", "Free play", "mm", 0.0, LONGEST_MM, needed=False),
                ),
            ),
            Step(
                "release",
                "Let go slowly. Where does the symbol go off again?",
                on,
                (),
                (Field("release_mm", "Off again at", "mm", 0.0, LONGEST_MM, needed=False),),
            ),
            Step(
                "proof",
                "A touch of throttle, then pull: does the motor stop at once?",
                on,
                ("pack_safe", "wheel_up"),
                (Field("proof", "Motor stops", choices=YES_NO),),
            ),
        )

    def judge(
        self, bike: Bike, subject: str, found: Readings, options: Mapping[str, str], last: Mapping[str, float]
    ) -> Verdict:
        """Say whether it cuts where it should, and which way to move it."""
        magnetic = isinstance(bike.part(subject).spec, CutOffSpec)
        findings = [*_symbol(found, magnetic), *self._travel(found, options.get("school", "early"), magnetic)]
        if found.chosen("proof") == "no":
            text = "The motor does not stop when the lever is pulled"
            change = (
                "Switch off. Look at plug, wire and setting of this cut-off; the other brake is no "
                "proof of it."
            )
            findings.insert(0, SetFinding("S006", "danger", text, change))
        complete = next_step(self.steps(bike, subject), found) is None
        return verdict_of(
            findings, complete, "Cuts where it should, and stops the motor", pictures=_band(found, options)
        )

    def _travel(self, found: Readings, school: str, magnetic: bool) -> list[SetFinding]:
        cut, bite = found.number("cut_mm"), found.number("bite_mm")
        if cut is None or bite is None:
            return []
        free = found.number("free_mm")
        free = FREE_SHARE * bite if free is None else free
        low, high = target_mm(school, free, bite)
        bar, release = found.number("bar_mm"), found.number("release_mm")
        findings = []
        if bar is not None and cut > bar:
            text = f"It cuts at {cut:g} mm, the lever meets the bar at {bar:g} mm: one of the two is misread"
            return [SetFinding("S007", "fault", text, "Measure both again from the same point of the lever.")]
        if cut < low:
            findings.append(
                SetFinding(
                    "S003",
                    "fault",
                    f"Cuts too early: at {cut:g} mm, wanted {low:.1f} to {high:.1f} mm",
                    _move(low, high, cut, magnetic),
                )
            )
        if cut > high:
            findings.append(
                SetFinding(
                    "S004",
                    "fault",
                    f"Cuts too late: at {cut:g} mm, wanted {low:.1f} to {high:.1f} mm",
                    _move(low, high, cut, magnetic),
                )
            )
        if release is not None and release > cut:
            text = f"Off again at {release:g} mm, beyond where it cut ({cut:g} mm): one of the two is misread"
            findings.append(SetFinding("S008", "fault", text, "Pull and let go once more, slowly."))
        elif release is not None and magnetic and cut - release > WIDE_HYSTERESIS * bite:
            text = f"It lets go again only {cut - release:g} mm further back"
            findings.append(
                SetFinding("S005", "advice", text, "A stronger magnet, or closer to the sensor face.")
            )
        return findings


def _symbol(found: Readings, magnetic: bool) -> list[SetFinding]:
    findings = []
    if found.chosen("rest") == "on":
        change = (
            "Bring the magnet closer to the sensor, face to face."
            if magnetic
            else "Free the lever or adjust its switch."
        )
        findings.append(
            SetFinding("S001", "fault", "Cuts with the lever at rest: the motor will not run", change)
        )
    if found.chosen("wiggle") == "on" and found.chosen("rest") != "on":
        change = (
            "Bring the magnet a little closer, so that more pull is needed."
            if magnetic
            else "Adjust the switch to act later."
        )
        findings.append(SetFinding("S002", "fault", "Trips when the lever is wiggled", change))
    return findings


def _move(low: float, high: float, cut: float, magnetic: bool) -> str:
    """Return which way to move it, and how far along the lever's travel."""
    way = abs((low + high) / 2 - cut)
    later = cut < low
    if magnetic:
        return (
            f"Move the magnet {'closer to' if later else 'away from'} the sensor until it cuts "
            f"{way:.0f} mm {'later' if later else 'earlier'}; small steps, tack only."
        )
    return f"Set the switch so that it acts {way:.0f} mm {'later' if later else 'earlier'}."


def _band(found: Readings, options: Mapping[str, str]) -> tuple[Band, ...]:
    cut, bite = found.number("cut_mm"), found.number("bite_mm")
    if bite is None:
        return ()
    free = found.number("free_mm")
    free = FREE_SHARE * bite if free is None else free
    low, high = target_mm(options.get("school", "early"), free, bite)
    end = max(bite * 1.3, 1.1 * (found.number("bar_mm") or 0.0))
    marks = [Mark(bite, "pads bite")]
    if cut is not None:
        marks.append(Mark(cut, "cuts", low <= cut <= high))
    for name, words in (("release_mm", "off again"), ("bar_mm", "bar")):
        at = found.number(name)
        if at is not None:
            marks.append(Mark(at, words))
    return (Band("Travel of the lever", "mm", 0.0, end, (low, high), tuple(marks)),)
