"""Phases and halls by trial, for a controller that does not learn them: what to try next, what is
left.

The 36 ways are hypotheses; each trial rules some out. What is tried next tells most, until one way
is left that must run smoothly.
"""

from collections.abc import Mapping, Sequence
from functools import cache

import numpy as np
from numpy.typing import NDArray

from brightcore.belief.bayes import expected_information, posterior
from brightcore.bike.model import Bike
from brightcore.kinds.motor import MotorSpec
from brightcore.setting.commutation import BEHAVIOURS, STUCK, WAYS, Way, against, behaviour
from brightcore.setting.contract import (
    Field,
    Instrument,
    Measured,
    Readings,
    SetFinding,
    Step,
    Subject,
    Verdict,
    verdict_of,
)

MISJUDGED = 0.03
"""Share of trials in which somebody misjudges how a motor runs (common practice)."""

HELD_BACK = 0.45
"""Share of trials in which a way of half the torque only twitches: a supply limited to 2 to 5 A
does not carry it round (common practice)."""

STUCK_SHARE = 0.06
"""Share of motors brought to the finder of which one hall is dead (common practice)."""

SURE = 0.9
CROSSING = "crossing"
MOST_TRIALS = 12

PHASE_NAMES, HALL_NAMES = "UVW", "ABC"
WORDS = {
    "smooth": "smooth, forward, few amps",
    "backward": "smooth, backward",
    "weak": "rough or weak, forward",
    "weak-backward": "rough or weak, backward",
    "locked": "locks, twitches or hums",
}
"""How a trial went, as it is tapped."""

Floats = NDArray[np.float64]
SPACING_OPTIONS = (("120", "120° (usual)"), ("60", "60°"))


def name_of(way: Way) -> str:
    """Return a way by its letters: motor wires at the controller's U V W and A B C.

    >>> name_of(WAYS[0])
    'UVW-ABC'
    """
    return (
        "".join(PHASE_NAMES[n] for n in way.phases)
        + "-"
        + "".join(HALL_NAMES[n] for n in way.halls)
    )


BY_NAME = {name_of(way): way for way in WAYS}


HALVES = (None, *STUCK)
"""What may be with the halls: all well, or one of them stuck."""


@cache
def table(spacing: int) -> Floats:
    """Return P(behaviour | right way and halls, tried way) [tried, behaviour, halls × right]."""
    likely = 1 - MISJUDGED
    rest = MISJUDGED / (len(BEHAVIOURS) - 1)
    found = np.full((len(WAYS), len(BEHAVIOURS), len(HALVES) * len(WAYS)), rest)
    for t, tried in enumerate(WAYS):
        for h, stuck in enumerate(HALVES):
            for r, right in enumerate(WAYS):
                does = behaviour(against(tried, right), spacing, stuck)
                column = found[t, :, h * len(WAYS) + r]
                column[BEHAVIOURS.index(does)] = likely
                if does.startswith("weak"):
                    # Behind a supply limited to a few amps a way of half the torque often only
                    # twitches. It is heard as "locks", and must not be ruled out by that.
                    column[BEHAVIOURS.index(does)] = likely - HELD_BACK
                    column[BEHAVIOURS.index("locked")] = HELD_BACK
    return found


def weigh(trials: Sequence[tuple[str, str]], spacing: int) -> Floats:
    """Return the belief [halls, 36] in what is with the halls and each way being right, after every
    trial."""
    likelihood = table(spacing)
    logs = []
    for way, seen in trials:
        logs.append(np.log(likelihood[WAYS.index(BY_NAME[way]), BEHAVIOURS.index(seen)]))
    sound = (1 - STUCK_SHARE) / len(WAYS)
    prior = np.full((len(HALVES), len(WAYS)), STUCK_SHARE / len(STUCK) / len(WAYS))
    prior[0] = sound
    return posterior(prior.ravel(), logs).reshape(len(HALVES), len(WAYS))


def belief(trials: Sequence[tuple[str, str]], spacing: int) -> Floats:
    """Return the belief in each of the 36 ways being right, all halls sound; sums to less than
    1."""
    return np.asarray(weigh(trials, spacing)[0])


def runs(share: Floats, spacing: int) -> Floats:
    """Return the belief [36] that each way, tried, would run smoothly forward."""
    smooth = BEHAVIOURS.index("smooth")
    # Misjudging is left out here: what counts is which way must run, not how often somebody says
    # so.
    certain = (table(spacing)[:, smooth, : len(WAYS)] > 0.5).astype(float)
    return np.asarray(certain @ share)


def mirrored(way: Way) -> Way:
    """Return the way of a motor built or mounted the other way round: two phases and two halls
    exchanged."""
    (u, v, w), (a, b, c) = way.phases, way.halls
    return Way((u, w, v), (a, c, b))


def other_crossing(bike: Bike, subject: str) -> tuple[str, Way] | None:
    """Return (name, way) of the other motor of a pair whose crossing was found; None where there is
    none."""
    for part in bike.having(MotorSpec):
        found = next((v for v in bike.measured if (v.part, v.name) == (part.id, CROSSING)), None)
        if part.id != subject and found is not None and 0 <= round(found.value) < len(WAYS):
            return part.name, WAYS[round(found.value)]
    return None


def next_way(trials: Sequence[tuple[str, str]], spacing: int) -> str:
    """Return the way to try next: the one that must run, else the one whose answer tells most."""
    whole = weigh(trials, spacing)
    smooth = runs(whole[0], spacing)
    tried = {way for way, _ in trials}
    # Once one way must be right it is proposed whatever else would tell more: the aim is a motor
    # that runs, not a belief.
    if smooth.max() >= SURE and name_of(WAYS[int(np.argmax(smooth))]) not in tried:
        return name_of(WAYS[int(np.argmax(smooth))])
    groups = np.vstack([np.eye(len(WAYS) + 1)[: len(WAYS)], *[_STUCK_GROUP] * len(STUCK)])
    bits = expected_information(table(spacing), whole.ravel(), groups)
    # Rounded, as many ways tell equally much: then the one likelier to run comes first, and the
    # order is the same on every machine.
    order = sorted(range(len(WAYS)), key=lambda n: (-round(float(bits[n]), 9), -smooth[n], n))
    return next(
        (name_of(WAYS[n]) for n in order if name_of(WAYS[n]) not in tried), name_of(WAYS[order[0]])
    )


_STUCK_GROUP = np.repeat(np.eye(len(WAYS) + 1)[-1:], len(WAYS), axis=0)
"""All ways with a stuck hall are one group: what is to be done is the same."""


def trials_of(typed: Mapping[str, object]) -> list[tuple[str, str]]:
    """Return the trials among what was typed, in the order in which they were proposed."""
    found: list[tuple[str, str]] = []
    for way, seen in typed.items():
        if way in BY_NAME and seen in BEHAVIOURS:
            found.append((way, str(seen)))
    return found


class WaysByTrial(Instrument):
    """The next way to connect, what it did, and what is left."""

    key = "ways"
    title = "Phases and halls by trial"
    options = (("spacing", "Halls", SPACING_OPTIONS),)

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every motor with halls on a plug."""
        found = []
        for p in bike.having(MotorSpec):
            if any(pin.role == "hall_a" for pin in p.pins):
                found.append(Subject(p.id, p.name))
        return tuple(found)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """The trials made, and the next one, until one ran smoothly."""
        spacing = int((typed or {}).get("spacing", "120") or "120")
        made = trials_of(typed or {})
        names = [way for way, _ in made]
        pair = other_crossing(bike, subject)
        if pair:
            # Two wheels of one vehicle are mostly wired alike, or mirror-wise: two trials settle
            # most pairs.
            hint = [name_of(pair[1]), name_of(mirrored(pair[1]))]
        else:
            hint = []
        untried = [name for name in hint if name not in names]
        if not any(seen == "smooth" for _, seen in made) and untried and len(made) < len(hint):
            found = []
            for n, name in enumerate([*names, untried[0]], 1):
                found.append(_step(n, name))
            return tuple(found)
        stuck = bool(made) and float(weigh(made, spacing)[1:].sum()) >= SURE
        if not any(seen == "smooth" for _, seen in made) and len(made) < MOST_TRIALS and not stuck:
            names.append(next_way(made, spacing))
        return tuple(_step(n, name) for n, name in enumerate(names, 1))

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Say how many ways are left, and the pin table once one ran."""
        spacing = int(options.get("spacing", "120") or "120")
        made = trials_of(found.values)
        whole = weigh(made, spacing)
        smooth = runs(whole[0], spacing)
        left = int((smooth > 0.02).sum())
        ran = next((way for way, seen in made if seen == "smooth"), "")
        if ran:
            values = (
                Measured("trials", float(len(made)), "", "trials made"),
                Measured(CROSSING, float(WAYS.index(BY_NAME[ran])), "", words_of(ran)),
            )
            title = f"{words_of(ran)} runs: mark the wires before anything else"
            return verdict_of(_pair(bike, subject, BY_NAME[ran]), True, title, values)
        if float(whole[1:].sum()) >= SURE and made:
            text = "No way of these would run: a hall does not switch, or they are spaced otherwise"
            change = (
                "Turn it by hand: Halls by hand tells 120° from 60°, and names one that "
                "stands still."
            )
            return verdict_of([SetFinding("S097", "fault", text, change)], True, "")
        if len(made) >= MOST_TRIALS:
            text = "Twelve trials and none ran: halls, phases or the spacing are not what they seem"
            change = "Turn it by hand first: Halls by hand says whether all three switch."
            return verdict_of([SetFinding("S095", "fault", text, change)], True, "")
        if made:
            waiting = f"{left} of {len(WAYS)} ways are left"
        else:
            waiting = "Nothing tried yet"
        return verdict_of([], False, "", waiting=waiting)


def _pair(bike: Bike, subject: str, ran: Way) -> list[SetFinding]:
    """Return what to write down where two motors of one vehicle are wired unlike."""
    pair = other_crossing(bike, subject)
    if pair is None or pair[1] == ran:
        return []
    text = f"{pair[0]} runs with {words_of(name_of(pair[1])).lower()}"
    change = (
        "A mirror-image pair: the crossings differ on purpose. Leave both as they are, label both."
    )
    return [SetFinding("S096", "advice", text, change)]


def words_of(way: str) -> str:
    """Return a way in words: what differs from connecting by the letters.

    >>> words_of("UVW-ABC")
    'All six by their letters'
    >>> words_of("UWV-ACB")
    'Motor W at V, V at W; hall C at B, B at C; the rest by its letters'
    """
    phases, halls = way.split("-")
    pieces = []
    for kind, names, order in (("Motor", PHASE_NAMES, phases), ("hall", HALL_NAMES, halls)):
        moved = []
        for own, motor in zip(names, order, strict=True):
            if own != motor:
                moved.append(f"{motor} at {own}")
        if moved:
            pieces.append(f"{kind} {', '.join(moved)}")
    if not pieces:
        return "All six by their letters"
    words = "; ".join(pieces)
    same = any(
        own == motor for own, motor in zip(PHASE_NAMES + HALL_NAMES, phases + halls, strict=True)
    )
    rest = "; the rest by its letters" if same else ""
    return words[0].upper() + words[1:] + rest


def _step(number: int, way: str) -> Step:
    stands = (
        "Pack out and capacitors empty before a plug is moved. Then a supply limited to 2 to 5 A "
        "or the lowest current setting, wheel off the ground: a touch of throttle from several "
        "positions of the wheel"
    )
    title = f"Trial {number}: {words_of(way)}"
    gates = ("pack_out", "discharged", "pack_safe", "wheel_up")
    fields = (Field(way, f"Trial {number}", choices=tuple(WORDS.items())),)
    return Step(way, title, stands, gates, fields, afresh=True)
