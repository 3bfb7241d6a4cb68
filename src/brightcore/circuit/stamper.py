"""What kinds see while they stamp their elements: nodes by part and pin, ties, elements."""

from brightcore.bike.model import Bike, Part, Pin, Port
from brightcore.circuit.elements import (
    INF,
    Element,
    Regions,
)


class Stamper:
    """Collects elements; kinds see only this while stamping."""

    def __init__(self, bike: Bike) -> None:
        self.bike = bike
        self.elements: list[Element] = []
        self._parent: dict[str, str] = {}

    def node(self, part: Part, name: str) -> str:
        """Return the name of an inner node of a part."""
        return self._add(f"{part.id}:{name}")

    def pin(self, part: Part, port: Port, pin: Pin) -> str:
        """Return the node name of a pin."""
        return self._add(f"{part.id}.{port.id}.{pin.name}")

    def pins(self, part: Part, *roles: str) -> list[str]:
        """Return the nodes of all pins of a part that have one of the roles."""
        found: list[str] = []
        for port in part.ports:
            for pin in port.pins:
                if pin.role in roles:
                    found.append(self.pin(part, port, pin))
        return found

    def tie(self, a: str, b: str) -> None:
        """Make two names one node."""
        self._parent[self.find(self._add(a))] = self.find(self._add(b))

    def tie_role(self, part: Part, role: str, inner: str) -> str:
        """Tie every pin of a role to one inner node and return it."""
        node = self.node(part, inner)
        for pin in self.pins(part, role):
            self.tie(pin, node)
        return node

    def add(
        self,
        part: Part,
        name: str,
        a: str,
        b: str,
        regions: Regions,
        c: str = "",
        d: str = "",
        by_control: bool = False,
        tol_g: float = 0.0,
        tol_j: float = 0.0,
        fuse_a: float = INF,
        tol_dead: float | None = None,
    ) -> str:
        """Add an element of a part and return its id `part/name`."""
        element_id = f"{part.id}/{name}"
        for node in (a, b, c, d):
            if node:
                self._add(node)
        self.elements.append(
            Element(element_id, a, b, regions, c, d, by_control, tol_g, tol_j, fuse_a, tol_dead)
        )
        return element_id

    def find(self, name: str) -> str:
        """Return the representative of a node name."""
        root = name
        while self._parent[root] != root:
            root = self._parent[root]
        # The path is shortened on the way, as a big harness ties hundreds of pins to few nodes.
        self._parent[name] = root
        return root

    def _add(self, name: str) -> str:
        self._parent.setdefault(name, name)
        return name

    def names(self) -> dict[str, str]:
        """Return every known name with its representative node."""
        return {name: self.find(name) for name in list(self._parent)}
