"""Nets of the healthy bike: which pins belong together, and words for them."""

import re

from brightcore.bike.model import Bike
from brightcore.bike.roles import role_of
from brightcore.circuit.controls import KindTable

_SLOT = re.compile(r"\{([a-z0-9_.-]+)\}")


class Nets:
    """Which pins belong together on the healthy bike: through contacts and conductors."""

    def __init__(self, bike: Bike, registry: KindTable) -> None:
        self.bike = bike
        self._parent: dict[str, str] = {}
        self.pins = [pin for part in bike.parts for pin in part.pin_ids]
        for join in bike.joins:
            for a, b in join.pairs:
                self._union(f"{join.a_part}.{join.a_port}.{a}", f"{join.b_part}.{join.b_port}.{b}")
        for part in bike.parts:
            for one, two in registry[part.kind].links(part):
                self._union(f"{part.id}.{one}", f"{part.id}.{two}")
        self.roles: dict[str, set[str]] = {}
        self._labels: dict[str, str] = {}
        for name in self.pins:
            _, _, pin = bike.pin(name)
            self.roles.setdefault(self.find(name), set()).add(pin.role)
            if pin.label:
                self._labels.setdefault(self.find(name), pin.label)

    def find(self, name: str) -> str:
        """Return the representative of a pin's net."""
        # Disjoint sets without ranks: nets of a bike are a few pins deep.
        while self._parent.setdefault(name, name) != name:
            name = self._parent[name]
        return name

    def _union(self, a: str, b: str) -> None:
        self._parent[self.find(a)] = self.find(b)

    def roles_of(self, pin: str) -> set[str]:
        """Return the roles found on a pin's net, without "wire"."""
        return self.roles[self.find(pin)] - {"wire"}

    def mates(self, part_id: str, *roles: str) -> set[str]:
        """Return the other parts that stand on the nets of a part's pins with the given roles."""
        own = self.bike.part(part_id)
        mine = set()
        for q in own.ports:
            for p in q.pins:
                if p.role in roles:
                    mine.add(self.find(f"{part_id}.{q.id}.{p.name}"))
        return {name.split(".")[0] for name in self.pins if self.find(name) in mine} - {part_id}

    def title(self, pin: str) -> str:
        """Return words for a pin: its own label or that of its net."""
        _, _, own = self.bike.pin(pin)
        return own.label or self._labels.get(self.find(pin)) or own.words

    def fill(self, text: str) -> str:
        """Return text with every `{part.port.pin}` replaced by the pin's words."""
        return _SLOT.sub(lambda match: self.title(match.group(1)), text)

    def ground(self, part_id: str, port_id: str) -> str:
        """Return the ground pin of a port, or the controller's battery minus."""
        port = self.bike.part(part_id).port(port_id)
        for pin in port.pins:
            name = f"{part_id}.{port_id}.{pin.name}"
            if any(role_of(role).ground_like for role in self.roles_of(name)):
                return name
        for name in self.pins:
            if self.bike.pin(name)[2].role == "battery_minus":
                return name
        return ""
