"""Lines to devices over Modbus, by network (TCP) or serial (RTU)."""

import re
from dataclasses import dataclass
from types import TracebackType
from typing import Self

from pymodbus.client import ModbusSerialClient, ModbusTcpClient
from pymodbus.exceptions import ModbusException
from pymodbus.pdu import ExceptionResponse, ModbusPDU

from brightcore.errors import BrightError
from brightcore.linking.port import LineDroppedError, RefusedError

ANSWER_S = 0.6
"""How long an answer is waited for; a controller takes a few hundredths of a second."""

USUAL_TCP_PORT, USUAL_BAUD = 502, 115_200

REFUSALS = {
    1: "does not know that request",
    2: "has no such register",
    3: "does not take that value",
}

_NETWORK = re.compile(
    r"^tcp:(?P<host>[A-Za-z0-9.\-]{1,100})(?::(?P<port>\d{1,5}))?(?:/(?P<unit>\d{1,3}))?$"
)
_SERIAL = re.compile(
    r"^serial:(?P<path>/dev/[A-Za-z0-9/._\-]{1,80}?|COM\d{1,3})(?:@(?P<baud>\d{4,7}))?(?:/(?P<unit>\d{1,3}))?$"
)


class AddressError(BrightError):
    """An address of a line that cannot be read."""


@dataclass(frozen=True, slots=True)
class Address:
    """Where a device is: `tcp:HOST:PORT/UNIT` or `serial:/dev/NAME@BAUD/UNIT`."""

    line: str
    unit: int
    host: str = ""
    port: int = 0
    path: str = ""
    baud: int = 0

    def __str__(self) -> str:
        return f"{self.line}/{self.unit}"

    @property
    def held_as(self) -> str:
        """What one holder has: the wire itself, at whatever speed it is spoken to."""
        if self.path:
            return f"serial:{self.path}"
        return self.line


def read_address(text: str) -> Address:
    """Return the address of a line as typed; raises AddressError."""
    plain = text.strip()
    # Only these two forms reach a socket or a device file: a name typed here must not open anything
    # else.
    network, serial = _NETWORK.match(plain), _SERIAL.match(plain)
    found = network or serial
    if found is None:
        raise AddressError(
            f"{plain!r} is no address: write tcp:192.168.0.5:502/1 or serial:/dev/ttyUSB0@115200/1"
        )
    unit = int(found["unit"] or 1)
    # Unit numbers of Modbus: 0 is to all, 248 and above are reserved (Modbus over serial line,
    # 2.2).
    if not 1 <= unit <= 247:
        raise AddressError(f"unit {unit} must lie from 1 to 247")
    if network:
        port = int(network["port"] or USUAL_TCP_PORT)
        if not 1 <= port <= 65535:
            raise AddressError(f"port {port} must lie from 1 to 65535")
        return Address(f"tcp:{network['host']}:{port}", unit, host=network["host"], port=port)
    assert serial is not None
    baud = int(serial["baud"] or USUAL_BAUD)
    return Address(f"serial:{serial['path']}@{baud}", unit, path=serial["path"], baud=baud)


class ModbusPort:
    """A port to one device; opened when it is first used, closed when the line drops."""

    def __init__(self, address: Address, answer_s: float = ANSWER_S) -> None:
        self.address = address
        self._client: ModbusTcpClient | ModbusSerialClient
        # No repeats below this: a write that was sent twice could not be told from one that was
        # sent once.
        if address.host:
            self._client = ModbusTcpClient(
                address.host, port=address.port, timeout=answer_s, retries=0
            )
        else:
            self._client = ModbusSerialClient(
                address.path, baudrate=address.baud, timeout=answer_s, retries=0
            )

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """Let go of the line."""
        self._client.close()  # type: ignore[no-untyped-call]

    def _open(self) -> None:
        if self._client.connected:
            return
        try:
            opened = self._client.connect()
        except (ModbusException, OSError):
            opened = False
        if not opened:
            raise LineDroppedError(f"nothing answers at {self.address.line}")

    def read(self, number: int, count: int) -> list[int]:
        """Return registers; raises LineDroppedError and RefusedError."""
        self._open()
        try:
            answer = self._client.read_holding_registers(
                number, count=count, device_id=self.address.unit
            )
        except (ModbusException, OSError) as error:
            raise self._dropped() from error
        self._refused(answer, number)
        return list(answer.registers)

    def write(self, number: int, value: int) -> None:
        """Write a register; raises LineDroppedError and RefusedError."""
        self._open()
        try:
            answer = self._client.write_register(number, value, device_id=self.address.unit)
        except (ModbusException, OSError) as error:
            raise self._dropped() from error
        self._refused(answer, number)

    def _dropped(self) -> LineDroppedError:
        self.close()  # a late answer must not be taken for that of the next request
        return LineDroppedError(f"no answer from {self.address} within the time")

    def _refused(self, answer: ModbusPDU, number: int) -> None:
        if not answer.isError():
            return
        if isinstance(answer, ExceptionResponse):
            code = answer.exception_code
        else:
            code = 0
        words = REFUSALS.get(code, f"answers with error {code}")
        raise RefusedError(f"the device {words} ({number})")
