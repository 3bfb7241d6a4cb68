"""What a hand holds while the other measures: throttle, levers, cranks, wheel at a place."""

from collections.abc import Iterator, Mapping

from brightcore.behaviour.scene import Scene
from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of
from brightcore.practice.hidden import scene_with
from brightcore.practice.state import State
from brightcore.practice.words import evidence_of, seen_words
from brightcore.tracing.evidence import Evidence

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
        """Hold it there. With the wheel on the ground and the bike on, a throttle lets it go
        off."""
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
        after = state.holding(name, value, control.values[0])
        if state.power != "on":
            return Done(after, words, HOLD_MIN)
        shown, evidence = _shown(play, state, after)
        return Done(after, f"{words} {shown}".strip(), HOLD_MIN, evidence)


def _shown(play: Play, state: State, after: State) -> tuple[str, tuple[Evidence, ...]]:
    """Return what display, lamp and motor show with all that is held, as words and as evidence."""
    scenes, hidden = play.engine.table.scenes, play.hidden(state)
    standing = scene_with(scenes["switch_on"], after.unplugged, after.held)
    seen = dict(hidden.seen(standing))
    moving = _moving(after, scenes)
    evidence: tuple[Evidence, ...] = ()
    if moving is not None:
        running = scene_with(moving, after.unplugged)
        found = hidden.seen(running)
        seen |= found
        evidence = evidence_of(play.engine, running, found, state.brought)
    return seen_words(play.bike, seen), evidence


def _moving(after: State, scenes: Mapping[str, Scene]) -> Scene | None:
    """Return the scene that what is held amounts to where the motor is asked for, with a lever or
    without."""
    held = [name for name, _ in after.held]
    levers = []
    for name in held:
        if name.endswith(".lever"):
            levers.append(f"brake.{name.partition('.')[0]}")
    asked = any(name.endswith(".grip") for name in held)
    if not asked:
        return None
    braked = next((scenes[name] for name in levers if name in scenes), None)
    return braked or scenes.get("throttle")
