"""What a rule is: code, severity, words, hint, source, how it finds, and the remedies that may put
it right, in one place."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date

from brightcore.analysis.bike import Analysis
from brightcore.bike.model import Bike, Part
from brightcore.findings import SEVERITIES, Finding, FindingType

COMMON_PRACTICE = "common-practice"


@dataclass(frozen=True, slots=True)
class Fix:
    """A fix in words, and the bike with it; `remedy`: the name of the remedy that offered it, one
    of its rule's."""

    words: str
    bike: Bike
    remedy: str = ""


Shelf = Sequence[Part]
"""Parts at hand, such as those of the shop's library."""

Remedy = Callable[[Bike, Finding, Shelf], Iterator[Fix]]
"""What may put a finding right; what it yields is tried on the bike before it is offered."""


@dataclass(frozen=True, slots=True)
class Found:
    """Makes findings of one rule: subjects, then the values that its words name."""

    type: FindingType
    today: date | None = None

    def __call__(self, subjects: Sequence[str], **values: str) -> Finding:
        return Finding(self.type, tuple(subjects), tuple(values.items()))


Find = Callable[[Analysis, Found], Iterator[Finding]]


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule with everything about it; `dated` rules ask what day it is."""

    type: FindingType
    what: str
    find: Find
    remedies: tuple[Remedy, ...]
    dated: bool

    def __call__(self, case: Analysis, today: date | None = None) -> Iterator[Finding]:
        """Yield what the rule finds on a bike; nothing where it depends on the date and none is
        given."""
        if self.dated and today is None:
            return iter(())
        return self.find(case, Found(self.type, today))


def rule(
    code: str,
    severity: str,
    text: str,
    hint: str,
    *,
    source: str = COMMON_PRACTICE,
    remedies: tuple[Remedy, ...] = (),
    dated: bool = False,
) -> Callable[[Find], Rule]:
    """Return a decorator that makes a rule of a generator of findings; its docstring says what it
    looks at."""
    kind = FindingType(code, severity, text, hint, source)

    def made(find: Find) -> Rule:
        return Rule(kind, (find.__doc__ or "").strip(), find, remedies, dated)

    return made


def findings_of(
    rules: Sequence[Rule], case: Analysis, today: date | None = None
) -> tuple[Finding, ...]:
    """Return what some rules find on a bike, gravest first."""
    return by_gravity([finding for item in rules for finding in item(case, today)])


def by_gravity(found: Iterable[Finding]) -> tuple[Finding, ...]:
    """Return findings in the order in which they are told, gravest first."""
    return tuple(sorted(found, key=lambda f: (SEVERITIES.index(f.severity), f.code, f.subjects)))


def volts(value: float) -> str:
    """Return volts as findings say them."""
    return f"{value:g} V"


def amps(value: float) -> str:
    """Return amps as findings say them."""
    return f"{value:g} A"


def page_of(rules: Sequence[Rule], sources: dict[str, str]) -> str:
    """Return the rules as the Markdown sections of `docs/findings.md`, in the order of their
    codes."""
    pieces = []
    for item in sorted(rules, key=lambda r: r.type.code):
        t = item.type
        lines = (
            f"## {t.code}",
            f"**{t.severity}.** {t.text}",
            f"Looks at: {item.what}",
            f"What to do: {t.hint}",
            f"Source: {sources[t.source]}.",
        )
        pieces.append("\n\n".join(lines))
    return "\n\n".join(pieces) + "\n"
