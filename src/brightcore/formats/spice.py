"""SPICE netlist of a circuit in one condition, with or without a fault; runs in ngspice as it is.

Plain resistors are written as R, everything else as a behavioural current source with one
expression per region. Node names are n1, n2, …; a comment maps each to its pins.
"""

from brightcore.circuit.conditions import Condition, condition_overrides, unplug_overrides
from brightcore.circuit.elements import INF, Override, Region
from brightcore.circuit.metered import Feeding
from brightcore.circuit.netlist import Circuit
from brightcore.circuit.system import LEAK_S


def spice_netlist(
    circuit: Circuit,
    condition: Condition,
    overrides: tuple[Override, ...] = (),
    title: str = "",
    first_guess: dict[str, float] | None = None,
    meter: tuple[str, str, Feeding] | None = None,
) -> str:
    """Return the netlist text. Precedence as in the solver: condition, then fault, then unplugging.

    `first_guess` holds volts by node for `.nodeset`: where the simulator starts looking. It does
    not change the solution. `meter` is (red, black, what it feeds): a source behind its resistance.
    """
    regions = {e.id: e.regions for e in circuit.elements}
    for group in (
        condition_overrides(circuit, condition),
        overrides,
        unplug_overrides(circuit, condition),
    ):
        for override in group:
            regions[override.element] = override.regions
    names = {node: f"n{i + 1}" for i, node in enumerate(circuit.nodes)} | {"0": "0", "": "0"}
    lines = [f"* {title or circuit.bike.info.label}: {condition.id}", "* nodes:"]
    pins: dict[str, list[str]] = {}
    for name, node in circuit.node_of.items():
        pins.setdefault(node, []).append(name)
    lines += [f"*  {names[node]} = {' '.join(pins[node])}" for node in circuit.nodes]
    for i, element in enumerate(circuit.elements):
        a, b, c, d = (names[end] for end in (element.a, element.b, element.c, element.d))
        if a == b:
            continue
        table = regions[element.id]
        lines.append(f"* {element.id}")
        if len(table) == 1 and table[0].g2 == 0 and table[0].j == 0:
            lines.append(f"R{i} {a} {b} {1 / table[0].g1:.12g}")
        else:
            if element.by_control:
                control = _across(c, d)
            else:
                control = _across(a, b)
            lines.append(
                f"B{i} {a} {b} I = {_expression(table, control, _across(a, b), _across(c, d))}"
            )
    lines += [f"Rleak{i} {names[node]} 0 {1 / LEAK_S:.6g}" for i, node in enumerate(circuit.nodes)]
    if meter is not None:
        red, black, feeding = meter
        lines.append("* meter")
        lines.append(f"Vmeter meter {names[circuit.node(black)]} {feeding.open_v:.12g}")
        lines.append(f"Rmeter meter {names[circuit.node(red)]} {feeding.behind_ohm:.12g}")
    guess = first_guess or {}
    lines += [
        f".nodeset v({names[node]})={guess[node]:.6g}" for node in circuit.nodes if node in guess
    ]
    options = ".options gmin=1e-15 reltol=1e-9 abstol=1e-14 vntol=1e-10 itl1=1000"
    control_lines = [".control", "set numdgt=15", "op", "print all", "quit", ".endc", ".end"]
    return "\n".join([*lines, options, *control_lines]) + "\n"


def _across(plus: str, minus: str) -> str:
    if minus == "0":
        if plus == "0":
            return "0"
        return f"v({plus})"
    if plus == "0":
        return f"(-v({minus}))"
    return f"v({plus},{minus})"


def _expression(table: tuple[Region, ...], control: str, ab: str, cd: str) -> str:
    text = ""
    for region in table:
        piece = f"({region.g1:.12g}*{ab} + {region.g2:.12g}*{cd} + {region.j:.12g})"
        if region.upto == INF or region is table[-1]:
            return text + piece + ")" * text.count("?")
        text += f"({control} < {region.upto:.12g} ? {piece} : "
    return text


def parse_operating_point(output: str, circuit: Circuit) -> dict[str, float]:
    """Return node volts by node from ngspice's printed operating point."""
    by_name = {f"n{i + 1}": node for i, node in enumerate(circuit.nodes)}
    found = {}
    for line in output.splitlines():
        name, _, value = line.partition(" = ")
        name = name.strip().lower()
        name = name[2:-1] if name.startswith("v(") else name
        if name in by_name:
            found[by_name[name]] = float(value)
    return found
