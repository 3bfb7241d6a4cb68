"""What a hand holds while the other measures: throttle, levers, cranks, wheel at a place."""

from collections.abc import Iterator

from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of
from brightcore.practice.state import State

HOLD_MIN = 0.2
SET_ELSEWHERE = ("power", "drive", "bridge", "mains")
"""Controls that acts of their own set: the switch, a ride, a bridge, a charger."""

SECTORS = "sector {n} of 6"


class Hold(Act):
    """Hold a control away from rest, or let it go."""

    key, group = "hold", "Hold"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Every value of every control but the present one."""
        held = dict(state.held)
        for name, (part_id, control) in play.circuit.controls.items():
            if control.id in SET_ELSEWHERE:
                continue
            part = play.names[part_id]
            for k, value in enumerate(control.values):
                if value == held.get(name, control.values[0]):
                    continue
                words = control.words[k].format(part=part) or f"{part}: {value}"
                if control.id == "rotor":
                    words = f"{part}: {SECTORS.format(n=k + 1)}"
                elif control.moves == "turns":
                    words = f"{part}: {value}"
                yield Choice((("control", name), ("value", value)), words, part)

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Hold it there. With the wheel on the ground and the bike on, a throttle lets it go off."""
        name = one_of(said.get("control", ""), tuple(play.circuit.controls), "control")
        part_id, control = play.circuit.controls[name]
        value = one_of(said.get("value", ""), control.values, "value")
        if control.id in SET_ELSEWHERE:
            one_of("", control.values, "control that is set elsewhere")
        away = value != control.values[0]
        asks = control.id in ("grip", "turn") and away
        if asks and state.power == "on" and state.wheel == "down":
            return careless(state, "wheel-down")
        words = f"{play.names[part_id]}: {'held' if away else 'let go'}."
        return Done(state.holding(name, value, control.values[0]), words, HOLD_MIN)
