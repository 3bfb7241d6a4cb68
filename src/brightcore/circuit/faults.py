"""Ways in which a part or a wire fails, and what is then done."""

from dataclasses import dataclass

from brightcore.circuit.elements import Override


@dataclass(frozen=True, slots=True)
class RepairKind:
    """What is done about a fault: words, minutes, part cost level and root cause to look for.

    `read_at`: two pins (red, black) whose volts at rest are read before it is named."""

    id: str
    action: str
    minutes: float
    root_cause: str
    cost_level: int = 0
    read_at: tuple[str, ...] = ()

    @property
    def owner(self) -> str:
        """The part or join that the repair is about, "" for the special ones."""
        if ":" in self.id:
            return self.id.split(":")[1]
        return ""

    @property
    def replaces(self) -> str:
        """The part that the repair replaces by another thing, "" where it only sets or mends
        something."""
        family, _, rest = self.id.partition(":")
        if family == "part" and ":" not in rest:
            return rest
        return ""

    @property
    def of_part(self) -> bool:
        """Whether a part, or something inside it, is replaced or mended."""
        return self._family == "part"

    @property
    def of_join(self) -> bool:
        """Whether it is about a plug, not a part."""
        return self._family == "join"

    @property
    def of_cable(self) -> bool:
        """Whether it is about a conductor of a cable."""
        return self._family == "cable"

    @property
    def of_setting(self) -> bool:
        """Whether a setting is changed and nothing bought."""
        return self._family == "setting"

    @property
    def describes(self) -> bool:
        """Whether what nobody has described is to be described first."""
        return self._family == "describe"

    @property
    def _family(self) -> str:
        return self.id.partition(":")[0]


@dataclass(frozen=True, slots=True)
class FaultMode:
    """A way a part can fail.

    `id` is permanent (`part.port.pin/mode/severity`), `weight` the relative prior (common
    practice), `traits` are faults that are not electrical (a stripped gear) or that the
    controller's own rules need to know of. `family` is the place it sits at, `seen_by_eye` the
    chance that a close look shows it. `loose`: how likely it comes and goes, as a share of its own
    weight; 0 for what does not. `question`: what is asked about what nobody has described. `hot`:
    the chance that its place is hot to the hand after a hard pull. `signs`: (`heard`, `smelt`,
    `hot`, `fast`, `faded` or `axle`, chance) of what no circuit shows.
    """

    id: str
    title: str
    weight: float
    repair: RepairKind
    overrides: tuple[Override, ...] = ()
    traits: tuple[str, ...] = ()
    family: str = ""
    seen_by_eye: float = 0.0
    loose: float = 0.0
    question: str = ""
    hot: float = 0.0
    signs: tuple[tuple[str, float], ...] = ()

    @property
    def silent(self) -> bool:
        """Whether no look and no reading shows it."""
        return not self.overrides and not self.traits

    def sign(self, name: str) -> float:
        """Return the chance of a sign, 0 where the fault gives none."""
        return dict(self.signs).get(name, 0.0)
