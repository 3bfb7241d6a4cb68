"""Halls by hand: what the codes of a slow turn say of spacing, order, and a dead or stuck hall."""

from collections.abc import Mapping

from brightcore.bike.model import Bike
from brightcore.errors import ReadingError
from brightcore.kinds.motor import MotorSpec
from brightcore.setting.commutation import ORDERS, SPACINGS, Order, codes
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

NAMES = "ABC"
CODES_IN_A_TURN = 6
ALL_CHANGE_IN = 4
"""In so many codes one after the other every hall of a sound motor has switched."""

Code = tuple[int, int, int]


class HallsByHand(Instrument):
    """Codes of the three halls in the order seen while the wheel is turned."""

    key = "halls"
    title = "Halls by hand"

    def subjects(self, bike: Bike) -> tuple[Subject, ...]:
        """Every motor whose halls come out on a plug."""
        found = []
        for p in bike.having(MotorSpec):
            if any(pin.role == "hall_a" for pin in p.pins):
                found.append(Subject(p.id, p.name))
        return tuple(found)

    def steps(
        self, bike: Bike, subject: str, typed: Mapping[str, str] | None = None
    ) -> tuple[Step, ...]:
        """One turn, code by code."""
        words = (
            "Turn the wheel slowly (a geared hub backwards); write A B C as 1 or 0 at every change"
        )
        return (
            Step(
                "turn",
                words,
                "Pack in, display on, wheel off the ground, motor plug back-probed",
                ("pack_safe", "wheel_up"),
                (
                    Field(
                        "codes",
                        "Codes in order",
                        "",
                        0.0,
                        111.0,
                        many=True,
                        help="such as 101 100 110 010 011 001",
                    ),
                ),
            ),
        )

    def judged(
        self,
        bike: Bike,
        subject: str,
        found: Readings,
        options: Mapping[str, str],
        last: Mapping[str, float],
    ) -> Verdict:
        """Name what is dead or stuck, else the spacing and the order of the wires."""
        try:
            seen = tuple(_code(value) for value in found.row("codes"))
        except ReadingError as error:
            change = "Three digits each, 1 near the supply, 0 near ground."
            return verdict_of([SetFinding("S090", "fault", str(error), change)], False, "")
        if not seen:
            return verdict_of([], False, "")
        row = _changes(seen)
        if len(seen) > 1 and len(set(row[0])) == 1 and len(row) == 1:
            level = "high" if row[0][0] else "low"
            text = f"All three halls stay {level} while it turns"
            change = (
                "Their supply and ground first: 4.5 to 5.2 V at the motor's own plug. A geared "
                "hub is turned backwards, or its rotor stands still."
            )
            return verdict_of([SetFinding("S094", "fault", text, change)], True, "")
        stuck = []
        for n in range(3):
            if len({code[n] for code in row}) == 1:
                stuck.append(n)
        if stuck and len(row) >= ALL_CHANGE_IN:
            return verdict_of([_stuck(row, n) for n in stuck], True, "")
        if len(set(row)) < CODES_IN_A_TURN:
            missing = CODES_IN_A_TURN - len(set(row))
            return verdict_of(
                [], False, "", waiting=f"{missing} of six codes not seen yet: turn further"
            )
        if len(set(row)) > CODES_IN_A_TURN:
            text = f"{len(set(row))} different codes: six is all a motor gives"
            finding = SetFinding(
                "S091",
                "fault",
                text,
                "A reading at the edge, or a loose ground of the halls: turn slower.",
            )
            return verdict_of([finding], True, "")
        return _orders(row)


def _code(value: float) -> Code:
    text = f"{value:03.0f}"
    if len(text) != 3 or set(text) - {"0", "1"}:
        raise ReadingError(f"{text!r} is no code of three halls")
    return int(text[0]), int(text[1]), int(text[2])


def _changes(seen: tuple[Code, ...]) -> tuple[Code, ...]:
    found = []
    for n, code in enumerate(seen):
        if n == 0 or code != seen[n - 1]:
            found.append(code)
    return tuple(found)


def _stuck(row: tuple[Code, ...], hall: int) -> SetFinding:
    level = row[0][hall]
    if level:
        words = "never goes low: open output, or its hall is dead"
    else:
        words = "never goes high: shorted, or no pull-up"
    text = f"Hall {NAMES[hall]} {words}"
    return SetFinding(
        "S092",
        "fault",
        text,
        f"Look at the wire of hall {NAMES[hall]}, then at the sensor; supply first.",
    )


def spacing_of(row: tuple[Code, ...]) -> int:
    """Return the spacing that a set of codes speaks for: 120, 60, or 0 where it is neither."""
    for spacing in SPACINGS:
        if set(row) == set(codes(spacing)):
            return spacing
    return 0


def orders_of(row: tuple[Code, ...], spacing: int) -> dict[str, list[Order]]:
    """Return which orders of the three wires make a turn "forward" or "backward" out of a row of
    codes."""
    table = codes(spacing)
    wanted = {"forward": table, "backward": table[::-1]}
    found: dict[str, list[Order]] = {"forward": [], "backward": []}
    for order in ORDERS:
        rows = []
        for code in row:
            rows.append((code[order[0]], code[order[1]], code[order[2]]))
        seen = tuple(rows)
        for name, turn in wanted.items():
            if _is_turn(seen, turn):
                found[name].append(order)
    return found


def _is_turn(seen: tuple[Code, ...], turn: tuple[Code, ...]) -> bool:
    """Return whether codes follow one another as in a turn, wherever it begins."""
    if seen[0] not in turn:
        return False
    at = turn.index(seen[0])
    return all(code == turn[(at + n) % len(turn)] for n, code in enumerate(seen))


def _orders(row: tuple[Code, ...]) -> Verdict:
    for spacing in SPACINGS:
        found = orders_of(row, spacing)
        for way, words in (("forward", "as turned"), ("backward", "against the way it was turned")):
            if found[way]:
                order = found[way][0]
                names = "".join(NAMES[n] for n in order)
                value = Measured("spacing_deg", float(spacing), "°", f"order {names}, {words}")
                return verdict_of(
                    [],
                    True,
                    f"All three halls switch, {spacing}° apart, order {names} {words}",
                    (value,),
                )
    text = "Six codes, but they do not follow one another as in a turn"
    change = "A code was skipped or noted twice: turn slower and note every change once."
    return verdict_of([SetFinding("S093", "fault", text, change)], True, "")
