"""Brake cut-off: where along the lever's travel the motor is cut, for both schools (common
practice)."""

from collections.abc import Mapping

from brightcore.bands import BRAKE
from brightcore.bands.points import PULLED_V, RELEASED_V
from brightcore.bike.model import Bike
from brightcore.kinds.levers import CutOffSpec, LeverSpec
from brightcore.kinds.select import controllers, cutting
from brightcore.setting.contract import (
    YES_NO,
    Band,
    Field,
    Instrument,
    Mark,
    Measured,
    ReadAt,
    Readings,
    SetFinding,
    Step,
    Subject,
    Value,
    Verdict,
    next_step,
    read_all,
    verdict_of,
    volts_at,
)
from brightcore.setting.own_plug import at_own_plug
from brightcore.touching import NOTHING

LONGEST_MM = 120.0
FREE_SHARE = 0.15
"""Free play of a lever as a share of the way to the bite, where it was not measured (common
practice)."""

EARLY_TO, LATE_FROM = 0.6, 0.5
"""Early: from the free play to this share of the way left to the bite. Late: from this share to the
bite."""

WIDE_HYSTERESIS = 0.5
"""Way between cutting and off again, as a share of the way to the bite, from which a magnet is
weak."""

OFF_ON = (("off", "symbol off"), ("on", "symbol on"))

SCHOOLS = (
    ("early", "early: the lever is a cut button, before the pads touch"),
    ("late", "late: only after some real pull, so that bumps and resting fingers do not trip it"),
)


def target_mm(school: str, free_mm: float, bite_mm: float) -> tuple[float, float]:
    """Return where the cut should lie along the lever's travel, after the free play and not after
    the bite.

    >>> target_mm("early", 4.0, 24.0), target_mm("late", 4.0, 24.0)
    ((4.0, 16.0), (14.0, 24.0))
    """
    # Free play counts for neither school: until it is taken up the lever has done nothing.
    way = bite_mm - free_mm
    if school == "late":
        return free_mm + LATE_FROM * way, bite_mm
    return free_mm, free_mm + EARLY_TO * way


ON = "Pack in, display on, wheel off the ground, throttle untouched"
POWERED = ("pack_safe", "wheel_up")
SHOWN = (
    ("symbol", "symbol on the display"),
    ("volts", "volts on the brake wire, where no display shows it"),
)
SETTING = (
    ("soft", "still right, not hard yet"),
    ("hard", "still right, and hard"),
    ("moved", "it has moved"),
)
DONE = (("done", "done"),)
LOOK_AGAIN_MIN = 5.0
"""Minutes until a setting magnet is looked at again, where nobody says otherwise (common
practice)."""

MOST_CHECKS = 12
_TACK = Step(
    "tack",
    "Tack the magnet lightly to the moving part of the lever, close to the sensor",
    "Pack out; nothing is glued yet. Tape alone comes loose later: only for finding the place",
    (),
    (Field("tack", "Tacked", choices=DONE),),
    touches=NOTHING,
)
_RELEASE = Step(
    "release",
    "Let go slowly. Where is the motor freed again?",
    ON,
    POWERED,
    (Field("release_mm", "Off again at", "mm", 0.0, LONGEST_MM, needed=False),),
)
_GLUE = Step(
    "glue",
    "Roughen both faces, glue with epoxy, hold with a tie",
    "Pack out. Gloves, air. Keep glue out of lever pivot and reservoir, off discs and pads",
    (),
    (Field("glue", "Glued and tied", choices=DONE),),
    timer_min=LOOK_AGAIN_MIN,
    touches=NOTHING,
)
_PROOF = Step(
    "proof",
    "A touch of throttle, then pull: does the motor stop at once?",
    ON,
    POWERED,
    (Field("proof", "Motor stops", choices=YES_NO),),
)


def _state(name: str, volts: bool) -> Step:
    """Return the step that reads whether the motor is cut, at rest or wiggled."""
    titles = {
        "rest": (
            "Let the lever go: is the symbol off?",
            "Let the lever go: volts on the brake wire",
            "At rest",
        ),
        "wiggle": (
            "Wiggle the lever and knock the bar: does the symbol stay off?",
            "Wiggle the lever and knock the bar: volts farthest from rest",
            "Wiggled",
        ),
    }
    by_symbol, by_volts, label = titles[name]
    if volts:
        return Step(name, by_volts, ON, POWERED, (volts_at(f"{name}_v", label, BRAKE),))
    return Step(name, by_symbol, ON, POWERED, (Field(name, label, choices=OFF_ON),))


def _travel_step(volts: bool) -> Step:
    title = "Pull slowly. Where does the symbol come on, where do the pads bite?"
    if volts:
        title = "Pull slowly. Where do the volts jump, what are they then, where do the pads bite?"
    pulled = (volts_at("pulled_v", "Pulled", BRAKE),) if volts else ()
    return Step(
        "travel",
        title,
        ON,
        POWERED,
        (
            Field("cut_mm", "Cuts at", "mm", 0.0, LONGEST_MM),
            Field("bite_mm", "Pads bite at", "mm", 1.0, LONGEST_MM),
            *pulled,
            Field("bar_mm", "Lever at the bar", "mm", 1.0, LONGEST_MM, needed=False),
            Field("free_mm", "Free play", "mm", 0.0, LONGEST_MM, needed=False),
        ),
    )


def _answered(said: Mapping[str, str]) -> list[str]:
    found: list[str] = []
    for n in range(1, MOST_CHECKS + 1):
        if said.get(f"check_{n}"):
            found.append(f"check_{n}")
    return found


def _checks(said: Mapping[str, str]) -> tuple[Step, ...]:
    """Return the looks while it sets: one more as long as the last found it soft."""
    names = _answered(said)
    if not names or (said[names[-1]] == "soft" and len(names) < MOST_CHECKS):
        names.append(f"check_{len(names) + 1}")
    title = "While it sets: is it off at rest, on when pulled, and has nothing moved?"
    found = []
    for name in names:
        found.append(
            Step(
                name,
                title,
                ON,
                POWERED,
                (Field(name, "It is", choices=SETTING),),
                timer_min=LOOK_AGAIN_MIN,
            )
        )
    return tuple(found)


def _said(value: Value) -> str:
    if isinstance(value, str):
        return value
    if isinstance(value, float):
        return f"{value:g}"
    return ""


class CutOff(Instrument):
    """Positions of a lever at which the motor is cut, read by the display's symbol or in volts."""

    key = "cut-off"
    title = "Brake cut-off"
    options = (("school", "When it should act", SCHOOLS), ("shown", "Read by", SHOWN))

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every lever with a cut-off, and every one added to a lever."""
        found = []
        for part in cutting(bike, "brake"):
            found.append(Subject(part.id, part.name))
        return tuple(found)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """Tack, rest, wiggle, travel; glue and look again where a magnet is added; then the
        proof."""
        said = typed or {}
        magnetic = isinstance(bike.part(subject).spec, CutOffSpec)
        volts = said.get("shown") == "volts"
        first = (_TACK,) if magnetic else ()
        steps = (
            *first,
            _state("rest", volts),
            _state("wiggle", volts),
            _travel_step(volts),
            _RELEASE,
        )
        # Glue comes after the place is right. Until then the magnet is only tacked, and no timer is
        # begun.
        if magnetic and self._placed(bike, subject, steps, said):
            steps += (_GLUE, *_checks(said))
        return (*steps, _PROOF)

    def _placed(
        self, bike: Bike, subject: str, steps: tuple[Step, ...], said: Mapping[str, str]
    ) -> bool:
        """Return whether it cuts where it should, so that it may be glued."""
        found = read_all([item for step in steps for item in step.fields], said)
        if next_step(steps, found) is not None:
            return False
        wrong = [
            *_symbol(bike, subject, found),
            *self._travel(found, said.get("school", "early"), True),
        ]
        return not any(item.severity != "advice" for item in wrong)

    def readings(self, bike: Bike, subject: str) -> tuple[ReadAt, ...]:
        """Volts of its own signal, released and pulled."""
        return at_own_plug(
            bike,
            subject,
            ("rest_v", "brake_signal", "on"),
            ("pulled_v", "brake_signal", f"on; {subject}.lever=pulled"),
        )

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Say whether it cuts where it should, and which way to move it."""
        magnetic = isinstance(bike.part(subject).spec, CutOffSpec)
        said = {name: _said(value) for name, value in found.values.items()} | dict(options)
        findings = [
            *_symbol(bike, subject, found),
            *self._travel(found, options.get("school", "early"), magnetic),
        ]
        if any(found.chosen(name) == "moved" for name in _answered(said)):
            change = "Take it off before it is hard, clean both faces, and set it again."
            findings.insert(0, SetFinding("S112", "fault", "It moved while it was setting", change))
        if found.chosen("proof") == "no":
            text = "The motor does not stop when the lever is pulled"
            change = (
                "Switch off. Look at plug, wire and setting of this cut-off; the other brake is no "
                "proof of it."
            )
            findings.insert(0, SetFinding("S006", "danger", text, change))
        following = next_step(self.steps(bike, subject, said), found)
        if following and following.timer_min:
            waiting = "Glued: look again while it sets"
        else:
            waiting = "Go on"
        cut = found.number("cut_mm")
        values: tuple[Measured, ...] = ()
        if cut is not None:
            values = (Measured("cut_mm", cut, "mm", "cuts at, along the lever's travel"),)
        return verdict_of(
            findings,
            following is None,
            "Cuts where it should, and stops the motor",
            values,
            _band(found, options),
            waiting,
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
        # Before anything else: a lever that meets the bar before the pads bite is a brake that does
        # not brake, and no cut-off makes up for that.
        if bar is not None and bite >= bar:
            text = (
                f"The pads bite at {bite:g} mm, the lever meets the bar at {bar:g} mm: it "
                "does not brake"
            )
            change = "Do not ride it. Bleed or adjust the brake first; then set the cut-off."
            return [SetFinding("S114", "danger", text, change)]
        if bar is not None and cut > bar:
            text = (
                f"It cuts at {cut:g} mm, the lever meets the bar at {bar:g} mm: one of the "
                "two is misread"
            )
            return [
                SetFinding(
                    "S007", "fault", text, "Measure both again from the same point of the lever."
                )
            ]
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
            text = (
                f"Off again at {release:g} mm, beyond where it cut ({cut:g} mm): one of "
                "the two is misread"
            )
            findings.append(SetFinding("S008", "fault", text, "Pull and let go once more, slowly."))
        elif release is not None and magnetic and cut - release > WIDE_HYSTERESIS * bite:
            text = f"It lets go again only {cut - release:g} mm further back"
            findings.append(
                SetFinding(
                    "S005", "advice", text, "A stronger magnet, or closer to the sensor face."
                )
            )
        return findings


def _cut_now(bike: Bike, subject: str, found: Readings, name: str) -> bool | None:
    """Return whether the motor is cut at a reading, by symbol or volts; None where nothing is
    read."""
    if found.chosen(name):
        return found.chosen(name) == "on"
    volts = found.number(f"{name}_v")
    if volts is None:
        return None
    spec = bike.part(subject).spec
    limit = next((c.spec.brake_below_v for c in controllers(bike)), 1.3)
    closed = isinstance(spec, LeverSpec) and spec.normally_closed
    # A normally closed switch says "braking" by opening; the controller's own threshold parts the
    # two.
    return (volts < limit) is not closed


def _symbol(bike: Bike, subject: str, found: Readings) -> list[SetFinding]:
    magnetic = isinstance(bike.part(subject).spec, CutOffSpec)
    findings = []
    at_rest, wiggled = (_cut_now(bike, subject, found, name) for name in ("rest", "wiggle"))
    if at_rest:
        if magnetic:
            change = "Bring the magnet closer to the sensor, face to face."
        else:
            change = "Free the lever or adjust its switch."
        text = "Cuts with the lever at rest: the motor will not run"
        findings.append(SetFinding("S001", "fault", text, change))
    if wiggled and not at_rest:
        if magnetic:
            change = "Bring the magnet a little closer, so that more pull is needed."
        else:
            change = "Adjust the switch to act later."
        findings.append(SetFinding("S002", "fault", "Trips when the lever is wiggled", change))
    if _cut_now(bike, subject, found, "pulled") is at_rest is False:
        text = f"{found.number('pulled_v'):g} V when pulled: the controller does not see it"
        findings.append(
            SetFinding("S113", "fault", text, "Follow signal and ground from lever to controller.")
        )
    for name, words in (("rest_v", "at rest"), ("pulled_v", "pulled")):
        volts = found.number(name)
        if volts is not None and PULLED_V < volts < RELEASED_V:
            text = f"{volts:g} V {words}: neither pulled down nor released"
            change = (
                "Worn contact, water, or a magnet at its margin: it will trip or fail on its own."
            )
            findings.append(SetFinding("S111", "fault", text, change))
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
