"""Evidence: one thing measured or seen, and how much repeats of it weigh.

What a kind of evidence means (its likelihood, its words) is with the kinds of test in
`tracing.tests`.
"""

from dataclasses import dataclass

REPEAT_WEIGHT = 0.5
"""Weight of the second and later looks at one observable with the same answer: not independent."""


@dataclass(frozen=True, slots=True)
class Evidence:
    """One thing measured or seen. Which fields matter depends on `kind` (see docs/formats).

    `meter` names the instrument it was read with, "" for the usual one. `sometimes`: it comes and
    goes. `told`: as the rider told it, of then and not of now. `state`: what was done or awaited to
    bring it out (`tracing.states`), "" for nothing.
    """

    kind: str
    value: str
    condition: str = ""
    red: str = ""
    black: str = ""
    scene: str = ""
    observable: str = ""
    subject: str = ""
    sometimes: bool = False
    meter: str = ""
    told: bool = False
    state: str = ""


def repeat_weights(items: list[Evidence]) -> list[float]:
    """Return a weight per item: later looks with the same observable and answer count half, and so
    does what was told once it has been seen."""
    seen: set[tuple[str, str]] = set()
    weights = [1.0] * len(items)
    for k in sorted(range(len(items)), key=lambda k: items[k].told):
        item = items[k]
        if item.observable and (item.observable, item.value) in seen:
            weights[k] = REPEAT_WEIGHT
        seen.add((item.observable, item.value))
    return weights
