"""What a link may open: serial ports of this machine, and addresses that are allowed.

pyserial knows more kinds of addresses, some of which write files; none of them is let
through.
"""

import ipaddress
import re
import select
import time
from collections.abc import Iterable
from typing import Protocol
from urllib.parse import urlsplit

import serial
from serial.tools import list_ports

from workshop.controller.errors import LinkError

_NAMED = re.compile(r"/dev/(tty|cu\.?|serial/by-(id|path)/)[\w.:+-]{1,120}|COM\d{1,3}")
_TICK_S = 0.002


class Port(Protocol):
    """What a link needs of an open port."""

    def read(self, size: int = 1, /) -> bytes:
        """Return what came in, at most so many bytes, without waiting."""

    def write(self, data: bytes, /) -> int | None:
        """Send bytes."""

    def close(self) -> None:
        """Let go of it."""


def wait_for(port: Port, seconds: float) -> None:
    """Wait until something came in, at most so long."""
    handle = getattr(port, "fileno", None)
    if handle is None:
        time.sleep(min(seconds, _TICK_S))
        return
    select.select([handle()], [], [], seconds)


def known_ports() -> list[str]:
    """Return the serial ports of this machine, by name."""
    return sorted(one.device for one in list_ports.comports())


def refusal(address: str, allowed: Iterable[str] = ()) -> str:
    """Return why an address may not be opened, empty where it may.

    Parameters
    ----------
    address : str
        A serial port's name, or ``socket://host:port``.
    allowed : iterable of str
        Hosts beyond this machine that the configuration lets through.
    """
    if _NAMED.fullmatch(address) and ".." not in address:
        return ""
    try:
        parts = urlsplit(address)
        host, number = parts.hostname or "", parts.port
    except ValueError:
        parts, host, number = None, "", None
    plain = (
        parts is not None
        and parts.scheme == "socket"
        and not (parts.path or parts.query or parts.fragment or parts.username)
    )
    if not plain or not host or not number:
        return "This is no serial port, and no address like socket://127.0.0.1:4210."
    if not _is_loopback(host) and host not in set(allowed):
        return f"{host} is not among the machines that LINK_HOSTS allows."
    return ""


def _is_loopback(host: str) -> bool:
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


def open_port(address: str, baud: int, allowed: Iterable[str] = ()) -> Port:
    """Open a serial port (8N1) or a ``socket://`` address, for one owner.

    Raises
    ------
    LinkError
        When it may not be opened, or is not there.
    """
    if why := refusal(address, allowed):
        raise LinkError(why)
    options = {} if address.startswith("socket:") else {"exclusive": True}
    try:
        return serial.serial_for_url(
            address, baudrate=baud, timeout=0, write_timeout=2.0, **options
        )
    except (serial.SerialException, OSError, ValueError):
        raise LinkError(
            "The controller does not answer; is it switched on and connected?"
        ) from None
