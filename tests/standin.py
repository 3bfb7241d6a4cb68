"""The stand-in as tests start it: its own process, on a free port or on a pair of joined
terminals."""

import os
import pty
import select
import subprocess
import sys
import threading
import tty
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

from brightcircuit.link.standin_bench import ARGUMENT, BENCH_ABOVE, FAULT
from brightcircuit.link.transport import ModbusPort, read_address
from tests.amount import PATIENCE_S

ROOT = Path(__file__).parent.parent


@dataclass
class Running:
    """A stand-in that runs: its line, and its bench side."""

    line: str

    def fault(self, number: int, argument: int = 0, unit: int = 1) -> None:
        """Switch a fault of a device on, 0 for none."""
        address = read_address(f"{self.line}/{unit}")
        with ModbusPort(replace(address, unit=unit + BENCH_ABOVE)) as port:
            port.write(ARGUMENT, argument)
            port.write(FAULT, number)

    def register(self, number: int, unit: int = 1) -> int:
        """Return what a register of a device holds, by a line of its own."""
        with ModbusPort(read_address(f"{self.line}/{unit}")) as port:
            return port.read(number, 1)[0]


@contextmanager
def standin(*arguments: str) -> Iterator[Running]:
    """Run the stand-in, on a free port unless told otherwise."""
    command = [sys.executable, "-m", "brightcircuit.link.standin", *(arguments or ("--port", "0"))]
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True)
    try:
        assert process.stdout is not None
        for words in process.stdout:
            if words.startswith(("tcp:", "serial:")):
                yield Running(words.strip())
                break
        else:
            raise AssertionError("the stand-in did not start")
    finally:
        process.terminate()
        try:
            process.wait(PATIENCE_S)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        if process.stdout is not None:
            process.stdout.close()


@contextmanager
def joined_terminals() -> Iterator[tuple[str, str]]:
    """Two serial ends joined as by a lead; returns their paths."""
    pairs = [pty.openpty() for _ in range(2)]
    for pair in pairs:
        for end in pair:
            tty.setraw(end)
    stopping = threading.Event()

    def carry() -> None:
        ends = {pairs[0][0]: pairs[1][0], pairs[1][0]: pairs[0][0]}
        while not stopping.is_set():
            for end in select.select(list(ends), [], [], 0.05)[0]:
                os.write(ends[end], os.read(end, 4096))

    thread = threading.Thread(target=carry, daemon=True)
    thread.start()
    try:
        yield os.ttyname(pairs[0][1]), os.ttyname(pairs[1][1])
    finally:
        stopping.set()
        thread.join(2)
        for pair in pairs:
            for end in pair:
                os.close(end)
