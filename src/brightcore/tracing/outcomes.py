"""Outcome tables: for one test, the distinct answers and P(answer | hypothesis).

Numbers are binned where the predictions of the hypotheses leave gaps; looks take the
distinct predicted combinations. Outcomes are used only to choose the next test and to say
what an answer would mean; updating uses the continuous likelihood.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from brightcore.behaviour.vocabulary import OBSERVABLES
from brightcore.bike.model import Bike
from brightcore.tracing.evidence import (
    DIODE_OVER_V,
    OHM_OFFSET,
    WRONG_READING,
    Evidence,
    inspect_probability,
    predict,
    swap_probability,
    transformed,
)
from brightcore.tracing.hypotheses import HypothesisSet
from brightcore.tracing.table import OVER_LIMIT_OHM, Table
from brightcore.tracing.tests import Test
from brightcore.units import format_quantity

Floats = NDArray[np.float64]

MAX_BINS = 7
MAX_OUTCOMES = 12
GAP_SIGMA = 0.9


@dataclass(frozen=True, slots=True)
class Outcome:
    """One possible answer: words, and the evidence that choosing it would enter."""

    label: str
    evidence: tuple[Evidence, ...]


@dataclass(frozen=True)
class OutcomeTable:
    """Outcomes of one test with P(outcome | hypothesis) [B, H]."""

    test: Test
    outcomes: tuple[Outcome, ...]
    probability: Floats


def outcome_table(table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
    """Return the outcomes of a test, or None where every hypothesis gives the same answer."""
    if test.kind in ("look", "unplug"):
        return _look(table, hypotheses, test)
    if test.kind == "inspect":
        rows = np.stack(inspect_probability(hypotheses, test.subject))
        labels = (("looks good", "good"), ("damage or wrong setting seen", "damaged"))
        return _two(hypotheses, test, rows, labels)
    if test.kind == "swap":
        rows = np.stack(swap_probability(hypotheses, test.subject))
        return _two(hypotheses, test, rows, (("trouble gone", "gone"), ("trouble the same", "same")))
    return _number(table, hypotheses, test)


def _two(hypotheses: HypothesisSet, test: Test, rows: Floats, labels: tuple[tuple[str, str], ...]) -> OutcomeTable | None:
    outcomes = tuple(Outcome(label, (Evidence(test.kind, value, subject=test.subject),)) for label, value in labels)
    return OutcomeTable(test, outcomes, with_unmodelled(hypotheses, rows))


def with_unmodelled(hypotheses: HypothesisSet, rows: Floats) -> Floats:
    """Return rows [B, H-1] with a broad column for "not modelled" added."""
    prior = hypotheses.prior[: hypotheses.rows]
    broad = 0.5 * (rows @ prior) / prior.sum() + 0.5 / len(rows)
    return np.concatenate([rows, broad[:, None]], axis=1)


def _look(table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
    seen = table.seen(test.scene)
    names = tuple(seen)
    if not names:
        return None
    codes = np.stack([seen[name] for name in names])
    prior = hypotheses.prior[: hypotheses.rows]
    unique, inverse = np.unique(codes, axis=1, return_inverse=True)
    if unique.shape[1] < 2:
        return None
    weight = np.bincount(inverse.ravel(), weights=prior)
    order = np.argsort(-weight, kind="stable")[: MAX_OUTCOMES - 1]
    confusion = [OBSERVABLES[name].seen_given() for name in names]
    rows, outcomes = [], []
    for k in order:
        p = np.ones(hypotheses.rows)
        evidence, words = [], []
        for i, name in enumerate(names):
            code = int(unique[i, k])
            p = p * confusion[i][codes[i], code]
            class_id, text = OBSERVABLES[name].classes[code]
            evidence.append(Evidence("look", class_id, scene=test.scene, observable=name))
            words.append(look_words(table.circuit.bike, name, class_id, text))
        rows.append(p)
        outcomes.append(Outcome(", ".join(w for w in words if w), tuple(evidence)))
    stack = np.stack(rows)
    rest = np.maximum(1.0 - stack.sum(axis=0), 1e-9)
    return OutcomeTable(test, (*outcomes, Outcome("something else", ())), with_unmodelled(hypotheses, np.vstack([stack, rest])))


def whose(bike: Bike, observable: str) -> str:
    """Return the name of the part that an observable is about, "" where there is one part only."""
    _, _, part_id = observable.partition("-")
    return bike.part(part_id).name if part_id else ""


def question_words(bike: Bike, observable: str) -> str:
    """Return the question of an observable, with the part it is about where there are several."""
    name = whose(bike, observable)
    return (
        f"{name}: {OBSERVABLES[observable].question[0].lower()}{OBSERVABLES[observable].question[1:]}"
        if name
        else OBSERVABLES[observable].question
    )


def look_words(bike: Bike, observable: str, class_id: str, text: str) -> str:
    """Return a seen thing as a short phrase with its subject."""
    name = whose(bike, observable)
    if name:
        return f"{name.lower()} {text}"
    subject = {"display": "display", "lamp": "lamp", "brake_symbol": "brake symbol", "speed": "", "motor": "motor"}
    if observable == "motor" and text.startswith("motor"):
        return text
    prefix = subject.get(observable, "")
    return f"{prefix} {text}".strip()


def _number(table: Table, hypotheses: HypothesisSet, test: Test) -> OutcomeTable | None:
    found = predict(table, test.kind, test.condition, test.red, test.black)
    binned = []
    for prediction in found:
        mean, sigma = transformed(test.kind, prediction)
        bins = _bins(mean, sigma, hypotheses.prior[: hypotheses.rows], 3 if len(found) > 1 else MAX_BINS)
        binned.append((_mass(mean, sigma, bins[1]), bins[0]))
    if all(len(centres) == 1 for _, centres in binned):
        return None
    uncertain = found[0].uncertain
    rows, outcomes = [], []
    if len(binned) == 1:
        mass, centres = binned[0]
        for b, centre in enumerate(centres):
            rows.append(mass[b])
            outcomes.append(_number_outcome(test, (centre,)))
    else:
        (low_mass, lows), (high_mass, highs) = binned
        for i, low in enumerate(lows):
            for j, high in enumerate(highs):
                if high >= low - 0.2:
                    rows.append(low_mass[i] * high_mass[j])
                    outcomes.append(_number_outcome(test, (low, max(low, high))))
    stack = np.stack(rows)
    stack = stack / np.maximum(stack.sum(axis=0), 1e-12)
    stack = (1 - WRONG_READING) * stack + WRONG_READING / len(stack)
    stack[:, uncertain] = 1.0 / len(stack)
    return OutcomeTable(test, tuple(outcomes), with_unmodelled(hypotheses, stack))


def _bins(mean: Floats, sigma: Floats, prior: Floats, most: int) -> tuple[list[float], Floats]:
    """Return bin centres and the edges between them, cut at the widest gaps in sigma."""
    order = np.argsort(mean, kind="stable")
    m, s, w = mean[order], sigma[order], prior[order]
    gaps = (m[1:] - m[:-1]) / (s[1:] + s[:-1])
    cuts = np.flatnonzero(gaps > GAP_SIGMA)
    if len(cuts) > most - 1:
        mass = np.minimum(np.cumsum(w)[cuts], w.sum() - np.cumsum(w)[cuts])
        score = np.minimum(gaps[cuts], 20.0) * np.sqrt(mass + 1e-6)
        cuts = np.sort(cuts[np.argsort(-score, kind="stable")[: most - 1]])
    edges = (m[cuts] * s[cuts + 1] + m[cuts + 1] * s[cuts]) / (s[cuts] + s[cuts + 1])
    pieces = np.split(np.arange(len(m)), cuts + 1)
    centres = [float(np.average(m[p], weights=w[p] + 1e-9)) for p in pieces]
    return centres, edges


def _mass(mean: Floats, sigma: Floats, edges: Floats) -> Floats:
    """Return the Gaussian mass [bins, R] of every hypothesis between the edges."""
    below = ndtr((edges[:, None] - mean[None, :]) / sigma[None, :])
    padded = np.vstack([np.zeros_like(mean)[None], below, np.ones_like(mean)[None]])
    return np.diff(padded, axis=0)


def _number_outcome(test: Test, centres: tuple[float, ...]) -> Outcome:
    if test.kind == "ohms":
        ohm = 10 ** centres[0] - OHM_OFFSET
        text = "OL" if ohm > 0.7 * OVER_LIMIT_OHM else format_quantity(max(ohm, 0.0), "Ω")
        label = "OL, open" if text == "OL" else f"about {text}"
    elif test.kind == "diode":
        text = "OL" if centres[0] > DIODE_OVER_V - 0.1 else format_quantity(centres[0], "V")
        label = "OL, blocks" if text == "OL" else f"about {text}"
    elif test.kind == "swing":
        low, high = (f"{v:.1f}" for v in centres)
        text = low if low == high else f"{low} to {high}"
        label = f"stays near {low} V" if low == high else f"swings {low} ↔ {high} V"
    else:
        text = format_quantity(centres[0], "V")
        label = f"about {text}"
    item = Evidence(test.kind, text, test.condition.id, test.red, test.black)
    return Outcome(label, (item,))
