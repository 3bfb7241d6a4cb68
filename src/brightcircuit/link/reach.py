"""What a line may reach: the shop's own networks, and the serial ports that this machine lists.

A text that somebody typed must not make the server speak to any machine of the world, nor open any
file. A name is resolved once, when it is connected; from then on the line is what it resolved to,
so that two spellings of one device are one line.
"""

import os
import socket
from collections.abc import Sequence
from dataclasses import replace
from ipaddress import IPv4Address, IPv4Network

from django.conf import settings
from serial.tools.list_ports import comports

from brightcircuit.link.transport import Address, AddressError
from brightcircuit.shop.networks import read_networks
from brightcircuit.shop.people import the_shop

OWN_NETWORKS = ("127.0.0.0/8", "10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16")
"""Where a device may be without a word of a lead: this machine and private networks (RFC 1918)."""


def allowed_networks() -> tuple[IPv4Network, ...]:
    """Return the networks in which devices of this shop may be."""
    own = tuple(IPv4Network(text) for text in OWN_NETWORKS)
    return own + read_networks(the_shop().link_networks)


def reached(address: Address) -> Address:
    """Return an address as what it resolves to; raises AddressError where it may not be reached."""
    if address.path:
        return _serial(address)
    return _network(address, allowed_networks())


def _network(address: Address, allowed: Sequence[IPv4Network]) -> Address:
    try:
        found = socket.getaddrinfo(address.host, address.port, socket.AF_INET, socket.SOCK_STREAM)
    except OSError:
        raise AddressError(f"{address.host} is not known on this network") from None
    number = IPv4Address(found[0][4][0])
    if not any(number in network for network in allowed):
        raise AddressError(
            f"{number} is outside the shop's own networks; a lead can add its network under Shop"
        )
    line = f"tcp:{number}:{address.port}"
    return replace(address, line=line, host=str(number))


def _serial(address: Address) -> Address:
    """Return a serial address by the port's real name; only ports that the machine lists count."""
    path = os.path.realpath(address.path) if address.path.startswith("/") else address.path
    listed = {os.path.realpath(port.device) for port in comports()}
    if path not in listed and address.path not in listed:
        known = ", ".join(sorted(listed)) or "none"
        raise AddressError(f"{address.path} is no serial port of this machine (there: {known})")
    return replace(address, line=f"serial:{path}@{address.baud}", path=path)


def is_standin(address: Address) -> bool:
    """Return whether an address is the stand-in that this installation started."""
    return bool(settings.STANDIN) and address.line == settings.STANDIN
