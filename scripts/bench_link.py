"""How long a device takes over the link, at the real stand-in in its own process."""

import statistics
import subprocess
import sys
import time
from collections.abc import Callable

from brightcircuit.link.transport import ModbusPort, read_address
from brightcore.formats.profile_file import shipped_profiles
from brightcore.linking.layout import live
from brightcore.linking.transfer import Item, read_on, write_on
from brightcore.programming.keys import Machine, plan

TIMES = 20
READ_S, LIVE_HZ = 2.0, 5.0


def _timed(act: Callable[[], object]) -> list[float]:
    seconds = []
    for _ in range(TIMES):
        begun = time.perf_counter()
        act()
        seconds.append(time.perf_counter() - begun)
    return seconds


def report(table: Callable[..., str]) -> str:
    """Return times of a whole read, single writes with reading back, live values, and plans of
    presses."""
    profile = next(p for p in shipped_profiles() if len(p.parameters) == 120)
    command = [sys.executable, "-m", "brightcircuit.link.standin", "--port", "0"]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    try:
        line = next(words.strip() for words in process.stdout if words.startswith("tcp:"))
        with ModbusPort(read_address(f"{line}/2")) as port:

            def together() -> None:
                assert read_on(
                    port, profile, [Item(p.code) for p in profile.parameters], lambda: 9.0
                )

            def one_by_one() -> None:
                for item in profile.parameters:
                    assert item.register is not None
                    port.read(item.register.number, 1)

            def write() -> None:
                write_on(port, profile, [Item("f01", None, 20.0)], lambda: 9.0)

            seconds = {
                "120 registers, read together": _timed(together),
                "120 registers, one by one": _timed(one_by_one),
                "one value written and read back": _timed(write),
                "all live values once": _timed(lambda: live(port)),
            }
    finally:
        process.terminate()
    display = next(p for p in shipped_profiles() if p.menu.kind == "list")
    machine = Machine(display, {})
    for item in display.parameters:
        far = item.high if machine.stored[item.code] != item.high else item.low
        seconds.setdefault("a plan of presses, every parameter", []).extend(
            _timed(lambda code=item.code, value=far: plan(machine, code, value))
        )
    rows = [
        (name, f"{1e3 * statistics.median(found):.1f} ms", f"{1e3 * max(found):.1f} ms")
        for name, found in seconds.items()
    ]
    whole = statistics.median(seconds["120 registers, read together"])
    rate = 1 / statistics.median(seconds["all live values once"])
    told = (
        f"\nA whole read takes {whole / READ_S:.1%} of the two seconds that it may; "
        f"live values could come {rate / LIVE_HZ:.0f} times as often as wanted (5 a second)."
    )
    return table(("over the link", "median", "worst"), rows) + told
