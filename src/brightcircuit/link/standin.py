"""The stand-in: simulated devices of bikes on one Modbus line, as a process of its own.

Every device has a second unit, 100 above its own, by which hands are simulated and its own faults
are switched on. Bikes, profiles and faults come from files; nothing of the application is used.
"""

import argparse
import asyncio
import os
import sys
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pymodbus.constants import ExcCodes
from pymodbus.server import ModbusSerialServer, ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from brightcircuit.link.standin_bench import (
    ARGUMENT,
    BENCH_ABOVE,
    BIKE_FAULT,
    FAULT,
    LEVER,
    SECTOR,
    THROTTLE,
)
from brightcore.errors import BrightError
from brightcore.formats.bike_file import load_bike
from brightcore.formats.profile_file import profile_named
from brightcore.linking.model import DROPPED, SLOW, DeviceModel
from brightcore.linking.port import RefusedError

REGISTERS = 6000
WRITES = (6, 16)
DEFAULT_PORT = 8502
DEMO = (
    "1=otter.json,controller,full-controller",
    "2=fern.json,controller,field-oriented-controller",
)
"""Devices of the demo, by unit."""


@dataclass
class Unit:
    """One device on the line, and how many requests it still answers (None: all)."""

    number: int
    model: DeviceModel
    left: int | None = None

    def bench(self) -> list[int]:
        """Return the registers of the bench side."""
        bench = self.model.bench
        ids = [fault.id for fault in self.model.faults]
        if self.model.bike_fault:
            at = ids.index(self.model.bike_fault) + 1
        else:
            at = 0
        return [
            round(1000 * bench.throttle),
            bench.sector,
            int(bench.lever),
            bench.fault,
            bench.argument,
            at,
        ]

    def turn(self, number: int, value: int) -> bool:
        """Do what hands do by writing a register of the bench side; returns whether there is such a
        one."""
        bench = self.model.bench
        if number == THROTTLE:
            bench.throttle = min(value, 1000) / 1000
        elif number == SECTOR:
            bench.sector = value % 6
        elif number == LEVER:
            bench.lever = bool(value)
        elif number == FAULT:
            bench.fault = value
            self.left = bench.argument if value == DROPPED else None
        elif number == ARGUMENT:
            bench.argument = value
            self.left = value if bench.fault == DROPPED else None
        elif number == BIKE_FAULT and value <= len(self.model.faults):
            self.model.set_bike_fault(self.model.faults[value - 1].id if value else "")
        else:
            return False
        return True

    def is_silent(self) -> bool:
        """Count a request; return whether it stays unanswered."""
        if self.left is None:
            return False
        self.left = max(self.left - 1, -1)
        return self.left < 0


def read_unit(text: str, folder: Path) -> Unit:
    """Return the device written as `UNIT=BIKE,PART,PROFILE[,FAULT]`; raises BrightError and
    OSError."""
    number, _, rest = text.partition("=")
    pieces = rest.split(",")
    if not number.isdigit() or not 1 <= int(number) < BENCH_ABOVE or len(pieces) not in (3, 4):
        raise BrightError(f"{text!r} is no device: write 1=BIKE.json,PART,PROFILE")
    bike = load_bike((folder / pieces[0]).read_text("utf-8"))
    fault = pieces[3] if len(pieces) == 4 else ""
    return Unit(
        int(number), DeviceModel(bike, bike.part(pieces[1]).id, profile_named(pieces[2]), fault)
    )


class StandIn:
    """Devices on one line, as what the protocol's server asks."""

    def __init__(self, units: Sequence[Unit]) -> None:
        self.units = {unit.number: unit for unit in units}
        self.silent = False

    def devices(self) -> list[SimDevice]:
        """Return every device and its bench side."""
        made = []
        for number in self.units:
            for at in (number, number + BENCH_ABOVE):
                held = SimData(0, values=0, count=REGISTERS, datatype=DataType.REGISTERS)
                made.append(SimDevice(at, simdata=[held], action=self._action(at)))
        return made

    def _action(self, at: int) -> Any:
        async def act(
            function: int,
            first: int,
            number: int,
            count: int,
            held: list[int],
            values: list[int] | None,
        ) -> ExcCodes | None:
            unit = self.units[at % BENCH_ABOVE]
            if at > BENCH_ABOVE:
                return self._hands(unit, number, count, held, first, values)
            self.silent = unit.is_silent()
            if unit.model.bench.fault == SLOW:
                await asyncio.sleep(unit.model.bench.argument / 1000)
            try:
                if values is not None:
                    for i, value in enumerate(values):
                        unit.model.write(number + i, int(value), time.monotonic())
                else:
                    found = unit.model.read(number, count, time.monotonic())
                    held[number - first : number - first + count] = found
            except RefusedError:
                return ExcCodes.ILLEGAL_ADDRESS
            return None

        return act

    def _hands(
        self,
        unit: Unit,
        number: int,
        count: int,
        held: list[int],
        first: int,
        values: list[int] | None,
    ) -> ExcCodes | None:
        self.silent = False
        if values is not None:
            done = [unit.turn(number + i, int(value)) for i, value in enumerate(values)]
            if all(done):
                return None
            return ExcCodes.ILLEGAL_ADDRESS
        bench = unit.bench()
        if number + count > len(bench):
            return ExcCodes.ILLEGAL_ADDRESS
        held[number - first : number - first + count] = bench[number : number + count]
        return None

    def sent(self, sending: bool, data: bytes) -> bytes:
        """Swallow what a device that has dropped off the line would answer."""
        if sending and self.silent:
            return b""
        return data


async def serve(stand_in: StandIn, port: int, serial: str, say: Any, tied: bool = False) -> None:
    """Serve until stopped, or, where `tied`, until who started it has gone; says its address
    first."""
    parent = os.getppid()
    devices = stand_in.devices()
    server: ModbusTcpServer | ModbusSerialServer
    if serial:
        server = ModbusSerialServer(
            devices, port=serial, baudrate=115_200, trace_packet=stand_in.sent
        )
    else:
        server = ModbusTcpServer(devices, address=("127.0.0.1", port), trace_packet=stand_in.sent)
    await server.serve_forever(background=True)
    if serial:
        say(f"serial:{serial}")
    else:
        listening: Any = server.transport
        say(f"tcp:127.0.0.1:{listening.sockets[0].getsockname()[1]}")
    while not tied or os.getppid() == parent:
        await asyncio.sleep(1.0)


def _say(words: str) -> None:
    print(words, flush=True)


def main(argv: Sequence[str] | None = None) -> int:
    """Run the stand-in; returns the exit status."""
    parser = argparse.ArgumentParser(prog="./bright standin", description=__doc__)
    parser.add_argument("--port", type=int, default=DEFAULT_PORT, help="0 takes a free one")
    parser.add_argument("--tied", action="store_true", help="end with the process that started it")
    parser.add_argument("--serial", default="", help="a serial port instead of the network")
    parser.add_argument("--device", action="append", help="UNIT=BIKE.json,PART,PROFILE[,FAULT]")
    args = parser.parse_args(argv)
    demo = Path(__file__).parent.parent / "demo"
    folder, texts = (Path(), args.device) if args.device else (demo, list(DEMO))
    try:
        stand_in = StandIn([read_unit(text, folder) for text in texts])
    except (BrightError, OSError) as error:
        print(error, file=sys.stderr)
        return 2
    for unit in stand_in.units.values():
        model = unit.model
        print(f"unit {unit.number}: {model.profile.title} of {model.bike.info.label}", flush=True)
    try:
        asyncio.run(serve(stand_in, args.port, args.serial, _say, args.tied))
    except KeyboardInterrupt:
        return 0
    except (OSError, RuntimeError) as error:
        print(f"cannot listen: {error}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
