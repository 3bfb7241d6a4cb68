"""Symptoms as riders report them: what the kinds of part know of, the commonest first.

Only what the technician confirms becomes evidence.
"""

from collections.abc import Mapping

from brightcore.behaviour.scene import Scene
from brightcore.behaviour.symptom import Symptom
from brightcore.errors import UnknownNameError
from brightcore.kinds import REGISTRY
from brightcore.tracing.evidence import Evidence


def _all() -> tuple[Symptom, ...]:
    found = {symptom.id: symptom for kind in REGISTRY for symptom in kind.symptoms}
    return tuple(sorted(found.values(), key=lambda symptom: symptom.rank))


SYMPTOMS = _all()
BY_ID = {symptom.id: symptom for symptom in SYMPTOMS}


def applicable(scenes: Mapping[str, Scene]) -> tuple[Symptom, ...]:
    """Return the symptoms that a bike with these scenes can show, the commonest first."""
    return tuple(symptom for symptom in SYMPTOMS if _shown(symptom, scenes))


def _shown(symptom: Symptom, scenes: Mapping[str, Scene]) -> bool:
    scene = scenes.get(symptom.scene)
    if scene is None:
        return False
    if symptom.every:
        seen = {name.partition("-")[0] for name in scene.seen}
    else:
        seen = set(scene.seen)
    return symptom.observable in seen


def symptom_evidence(
    symptom_id: str, scenes: dict[str, Scene], sometimes: bool, state: str = ""
) -> tuple[Evidence, ...]:
    """Return what a rider told as evidence of then; nothing where this bike's scenes do not say
    it."""
    if symptom_id not in BY_ID:
        raise UnknownNameError("symptom", symptom_id, tuple(BY_ID))
    symptom = BY_ID[symptom_id]
    scene = scenes.get(symptom.scene)
    if scene is None:
        return ()
    if symptom.observable in scene.seen:
        names = [symptom.observable]
    else:
        names = []
    if symptom.every:
        names = [name for name in scene.seen if name.partition("-")[0] == symptom.observable]
    found = []
    for name in names:
        found.append(
            Evidence(
                "look",
                symptom.value,
                scene=scene.id,
                observable=name,
                sometimes=sometimes,
                told=True,
                state=state,
            )
        )
    return tuple(found)
