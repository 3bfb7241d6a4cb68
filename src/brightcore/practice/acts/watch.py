"""Do something and watch: a touch of throttle, the cranks, a lever, the hill, the wheel by hand."""

from collections.abc import Iterator

from brightcore.behaviour.scene import Scene
from brightcore.practice.acts.base import Act, Choice, Done, Play, Said, careless, one_of, refused
from brightcore.practice.hidden import scene_with
from brightcore.practice.state import State
from brightcore.practice.words import evidence_of, seen_words
from brightcore.tracing.states import UPHILL, state_of

BY_ITSELF = ("switch_on",)
"""Scenes that another act is."""

BY_HAND = ("spin", "clipped")
"""Scenes with the pack out, in which a hand turns the motor."""

ON_THE_ROAD = ("pull",)


def scenes_of(play: Play) -> dict[str, Scene]:
    """Return the scenes that can be done as they are: those of plugs apart follow from the
    state."""
    found: dict[str, Scene] = {}
    for scene in play.engine.table.scenes.values():
        if (
            scene.id.split(".")[0] not in BY_ITSELF
            and scene.kind != "unplug"
            and "/" not in scene.id
        ):
            found[scene.id] = scene
    return found


class Watch(Act):
    """Do a scene and watch what happens."""

    key, group = "watch", "Do and watch"

    def choices(self, play: Play, state: State) -> Iterator[Choice]:
        """Every scene of the bike."""
        for scene in scenes_of(play).values():
            yield Choice((("scene", scene.id),), scene.title)

    def do(self, play: Play, state: State, said: Said) -> Done:
        """Do it as the bike stands; what turns with the wheel on the ground, goes."""
        name = one_of(said.get("scene", ""), tuple(scenes_of(play)), "scene")
        scene, first = scenes_of(play)[name], name.split(".")[0]
        if first in BY_HAND:
            return self._by_hand(play, state, scene)
        if state.power != "on" and scene.kind != "charge":
            return refused(state, "It is switched off: switch it on first.")
        if state.held:
            return refused(state, "Let go of what is held first.")
        if first in ON_THE_ROAD:
            if state.wheel == "up":
                return refused(
                    state, "For that the wheel goes on the ground, and the bike on the road."
                )
        elif scene.kind not in ("charge", "halls") and state.wheel == "down":
            return careless(state, "wheel-down")
        brought = "" if state.brought == UPHILL else state.brought
        return self._seen(play, state, scene, brought)

    def _by_hand(self, play: Play, state: State, scene: Scene) -> Done:
        if state.power != "out":
            return refused(state, "For that the pack comes out first.")
        if scene.kind == "clipped" and scene.unplugged not in state.unplugged:
            return refused(state, "For that the phase plug is unplugged first.")
        return self._seen(play, state, scene, "")

    def _seen(self, play: Play, state: State, scene: Scene, brought: str) -> Done:
        rows = []
        for join in state.unplugged:
            if join != scene.unplugged:
                rows.append(join)
        apart = tuple(rows)
        done = scene_with(scene, apart)
        seen = play.hidden(state).seen(done)
        evidence = evidence_of(play.engine, done, seen, brought)
        extra = state_of(brought).minutes if brought else 0.0
        return Done(state, seen_words(play.bike, seen), scene.minutes + extra, evidence)
