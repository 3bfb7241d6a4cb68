"""Putting a bike together from kinds: parts with their usual ports, and joins by what pins
carry."""

import uuid
from dataclasses import dataclass, field, replace
from typing import Any

from brightcore.bike.mating import propose_pairs
from brightcore.bike.model import UNTOLD_WIRE, Bike, BikeInfo, Frame, Join, Part, Port, Wire
from brightcore.kinds import REGISTRY
from brightcore.kinds.base import Registry
from brightcore.kinds.blocks import port


@dataclass
class Builder:
    """Collects parts and joins of a pattern."""

    registry: Registry = REGISTRY
    parts: list[Part] = field(default_factory=list)
    joins: list[Join] = field(default_factory=list)
    made: int = 0

    def add(
        self, part_id: str, kind: str, name: str, ports: tuple[Port, ...] | None = None, **spec: Any
    ) -> Part:
        """Add a part; without `ports` it has the usual ones of its kind."""
        made = self.registry[kind].spec_type(**spec)
        part = Part(
            part_id, kind, name, made, self.registry[kind].ports(made) if ports is None else ports
        )
        self.parts.append(part)
        return part

    def hang(self, end: str, part_id: str, kind: str, name: str, **spec: Any) -> None:
        """Add a part with one plug and join it to an end such as `controller.lamp`."""
        self.add(part_id, kind, name, **spec)
        self.join(end, f"{part_id}.plug")

    def join(self, one: str, two: str, wire: Wire = UNTOLD_WIRE) -> None:
        """Mate two ports given as `part.port`; pins mate by name or in order."""
        (a, p), (b, q) = (end.split(".") for end in (one, two))
        ports = {part.id: part for part in self.parts}
        pairs = propose_pairs(ports[a].port(p), ports[b].port(q))
        self.mate(a, p, b, q, pairs, wire)

    def mate(
        self,
        a: str,
        p: str,
        b: str,
        q: str,
        pairs: tuple[tuple[str, str], ...],
        wire: Wire = UNTOLD_WIRE,
    ) -> None:
        """Mate two ports with an explicit pin map."""
        self.made += 1
        self.joins.append(Join(f"j{self.made}", a, p, b, q, pairs, wire))

    def controller(
        self,
        part_id: str,
        name: str,
        drop: tuple[str, ...] = (),
        extra: tuple[Port, ...] = (),
        optional: tuple[str, ...] = (),
        **spec: Any,
    ) -> None:
        """Add a controller without some usual plugs, with extra ones, and with some not needed for
        first light."""
        usual = REGISTRY["controller"].ports(REGISTRY["controller"].spec_type(**spec))
        rows = []
        for p in usual:
            if p.id not in drop:
                rows.append(replace(p, required=False) if p.id in optional else p)
        ports = tuple(rows)
        self.add(part_id, "controller", name, (*ports, *extra), **spec)

    def lead(
        self,
        part_id: str,
        name: str,
        ends: tuple[str, ...],
        area_mm2: float,
        length_m: float,
        pins: tuple[str, ...] = ("plus", "minus"),
        conductors: tuple[tuple[str, str], ...] = (),
    ) -> None:
        """Add a cable whose ends all carry the same pins."""
        rows = []
        for end in ends:
            rows.append(
                port(
                    end,
                    f"{name} {end.replace('_', ' ')}",
                    *pins,
                    family=f"power-{len(pins)}" if area_mm2 >= 1 else "signal",
                )
            )
        ports = tuple(rows)
        ports = tuple(
            replace(p, pins=tuple(replace(pin, role="wire") for pin in p.pins)) for p in ports
        )
        self.add(
            part_id,
            "cable",
            name,
            ports,
            area_mm2=area_mm2,
            length_m=length_m,
            conductors=conductors,
        )

    def bike(self, info: BikeInfo, frame: str = "diamond") -> Bike:
        """Return the bike, with a UUID of its own."""
        return Bike(
            str(uuid.uuid4()), info, tuple(self.parts), tuple(self.joins), frame=Frame(frame)
        )
