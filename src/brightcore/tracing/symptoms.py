"""Symptoms as riders report them, in the words of the behaviour vocabulary.

A symptom is one thing seen in one scene. Only what the technician confirms becomes evidence.
"""

from dataclasses import dataclass

from brightcore.behaviour.scene import Scene
from brightcore.tracing.evidence import Evidence


@dataclass(frozen=True, slots=True)
class Symptom:
    """One reportable symptom: id, words, and the look it amounts to."""

    id: str
    words: str
    scene: str
    observable: str
    value: str


SYMPTOMS = (
    Symptom("dark", "Dead: the display stays dark", "switch_on", "display", "dark"),
    Symptom("throttle-silent", "Throttle does nothing", "throttle", "motor", "silent"),
    Symptom("pedal-silent", "Pedalling brings no help", "pedal", "motor", "silent"),
    Symptom("rough", "Shudders or runs rough when pulling away", "throttle", "motor", "rough"),
    Symptom("twitch", "Twitches, then stops", "throttle", "motor", "twitch"),
    Symptom("cuts", "Cuts out under load or uphill", "pull", "motor", "cuts"),
    Symptom("weak", "Slow: never reaches full speed", "throttle", "motor", "weak"),
    Symptom("free", "Motor runs, wheel does not turn", "throttle", "motor", "free"),
    Symptom("brake-shown", "Brake symbol shows with the levers released", "switch_on", "brake_symbol", "shown"),
    Symptom("error-hall", "Shows a hall or motor sensor error", "throttle", "error", "hall"),
    Symptom("error-throttle", "Shows a throttle error", "switch_on", "error", "throttle"),
    Symptom("error-communication", "Shows a communication error", "switch_on", "error", "communication"),
    Symptom("error-temperature", "Shows a temperature error", "switch_on", "error", "temperature"),
    Symptom("error-power", "Shows a phase or power stage error", "throttle", "error", "power"),
    Symptom("speed-none", "Speed stays at 0", "throttle", "speed", "none"),
    Symptom("lamp-dark", "Lamp does not light", "switch_on", "lamp", "dark"),
    Symptom("drags", "Wheel drags in lumps when pushed", "spin", "drag", "drags"),
)
BY_ID = {symptom.id: symptom for symptom in SYMPTOMS}


EVERY = frozenset({"throttle-silent", "pedal-silent"})
"""Symptoms that hold for every motor of a bike with several; of the others it is not said which motor shows it."""


def symptom_evidence(symptom_id: str, scenes: dict[str, Scene], sometimes: bool) -> tuple[Evidence, ...]:
    """Return the evidence of a confirmed symptom; none where this bike's scenes do not say it."""
    symptom = BY_ID[symptom_id]
    scene = scenes.get(symptom.scene)
    if scene is None:
        return ()
    names = [symptom.observable] if symptom.observable in scene.seen else []
    if symptom_id in EVERY:
        names = [name for name in scene.seen if name.partition("-")[0] == symptom.observable]
    return tuple(Evidence("look", symptom.value, scene=scene.id, observable=name, sometimes=sometimes) for name in names)
