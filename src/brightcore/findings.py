"""What is wrong or doubtful about a bike, as data: code, severity, subjects, values.

Codes are permanent and documented in `docs/findings.md`. `render` is the only place that
makes words of a finding, for page and command line alike.
"""

from dataclasses import dataclass

SEVERITIES = ("danger", "fault", "advice")


@dataclass(frozen=True, slots=True)
class FindingType:
    """A rule's permanent code, its words with `{value}` slots, and its source id."""

    code: str
    severity: str
    text: str
    hint: str
    source: str


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding: a type, the ids of what it is about, and named values."""

    type: FindingType
    subjects: tuple[str, ...]
    values: tuple[tuple[str, str], ...] = ()

    @property
    def code(self) -> str:
        """Permanent code, such as `W001`."""
        return self.type.code

    @property
    def severity(self) -> str:
        """One of `SEVERITIES`."""
        return self.type.severity

    @property
    def key(self) -> str:
        """Identity of the finding with its values; a waiver lapses when this changes."""
        return "|".join((self.code, *self.subjects, *(f"{n}={v}" for n, v in self.values)))


def render(finding: Finding) -> str:
    """Return the finding as one sentence."""
    return finding.type.text.format(**dict(finding.values))


def hint(finding: Finding) -> str:
    """Return what to do about the finding."""
    return finding.type.hint.format(**dict(finding.values))
