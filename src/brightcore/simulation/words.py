"""What is seen, in words."""

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike


def whose(bike: Bike, observable: str) -> str:
    """Return the name of the part that an observable is about, "" where there is one part only."""
    _, _, part_id = observable.partition("-")
    if part_id:
        return bike.part(part_id).name
    return ""


def question_words(bike: Bike, observable: str) -> str:
    """Return the question of an observable, with the part it is about where there are several."""
    name = whose(bike, observable)
    if name:
        return (
            f"{name}: "
            f"{OBSERVABLES[observable].question[0].lower()}{OBSERVABLES[observable].question[1:]}"
        )
    return OBSERVABLES[observable].question


def look_words(bike: Bike, observable: str, class_id: str, text: str) -> str:
    """Return a seen thing as a short phrase with its subject."""
    name = whose(bike, observable)
    if name:
        return f"{name.lower()} {text}"
    subject = {
        "display": "display",
        "lamp": "lamp",
        "brake_symbol": "brake symbol",
        "speed": "",
        "motor": "motor",
    }
    if observable == "motor" and text.startswith("motor"):
        return text
    prefix = subject.get(observable, "")
    return f"{prefix} {text}".strip()
