"""Help at its place: what a page works out, from what, what to do first, what it does not know; its
terms."""

from dataclasses import dataclass

TERMS = {
    "the Line": "the bike as one line of light: bright is proven good, thin is unknown, dashed "
    "is suspect, a "
    "gap with a cross is faulty",
    "suspect": "a place that may be the fault, with how likely it is after everything measured",
    "known good": "a part that is proven to work, swapped in to see whether the fault goes away",
    "proof": "the test that must now show what it did not show before the repair",
    "round": (
        "everything from one repair and its proof to the next; a failed proof begins a new one"
    ),
    "told": "what the rider says; it counts less than what is seen here",
    "danger": "a finding that can burn, hurt or destroy: powered tests wait until it is put right",
    "first power-up": (
        "the fewest connections with which the motor must turn, before the rest is routed"
    ),
    "low-voltage cut-off": "the volts below which a controller draws no more, before the BMS trips",
    "pole pairs": "electrical turns in one turn of the rotor; behind a gear, times its ratio",
    "cut-off": "the switch in a brake lever that stops the motor",
    "hall": "the three sensors in a hub that tell the controller where the rotor is",
    "phase": "the three thick wires from controller to motor",
    "BMS": "the protection board in a pack; a tripped one gives no volts until it is reset",
    "sag": "the volts a pack loses while current is drawn",
    "rating, load, margin": "what a part stands, what is asked of it, what remains between the two",
    "drip loop": "a low point in a cable before a plug, so that water drips off there",
    "mirror-image pair": (
        "two motors that turn opposite ways: one of them is wired crossed on purpose"
    ),
    "class": "what the law of a place calls a bike of this power and speed",
}
"""Terms of the pages, explained where they stand."""


@dataclass(frozen=True, slots=True)
class Help:
    """What is to be known of one page, in a sentence or two each; `terms` are keys of `TERMS`."""

    works_out: str
    made_of: str
    first: str
    unknown: str = ""
    terms: tuple[str, ...] = ()

    def rows(self) -> list[tuple[str, str]]:
        """Return (heading, sentences) of what there is to say."""
        rows = (
            ("What it works out", self.works_out),
            ("From what", self.made_of),
            ("What to do first", self.first),
            ("What it does not know", self.unknown),
        )
        return [row for row in rows if row[1]]

    def explained(self) -> list[tuple[str, str]]:
        """Return (term, meaning)."""
        return [(term, TERMS[term]) for term in self.terms]
