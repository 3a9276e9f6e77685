"""Where an instrument may be: on the networks that whoever runs the server allows, at the address it was registered at."""

import socket
from ipaddress import IPv4Address, IPv6Address, ip_address, ip_network

from django.conf import settings

Address = IPv4Address | IPv6Address
LOWEST_PORT, TELNET = 1024, 23
"""Ports under the first belong to services, but for the one that many serial servers listen on."""


class NotAllowed(ValueError):
    """A host or port that nothing may be read from; `field` says which, the message what to do."""

    def __init__(self, field: str, text: str) -> None:
        super().__init__(text)
        self.field = field


def allowed(address: Address) -> bool:
    """Whether an instrument may be at this address."""
    networks = [ip_network(one, strict=False) for one in settings.INSTRUMENT_NETWORKS]
    return any(address in network for network in networks)


def found_at(host: str, port: int) -> str:
    """The address of a host as it is found now, to be kept for good. Raises NotAllowed."""
    if port != TELNET and not LOWEST_PORT <= port <= 65_535:
        raise NotAllowed("port", f"Ports are {TELNET}, or from {LOWEST_PORT} to 65535. Look it up on the instrument.")
    if port == int(settings.DATABASES["default"].get("PORT") or 0):
        raise NotAllowed("port", "That port is this server's own. Look it up on the instrument.")
    try:
        addresses = {ip_address(host)}
    except ValueError:
        addresses = _named(host)
    for address in addresses:
        if not allowed(address):
            text = f"{host} is at {address}, which is not on a network where instruments may be. Ask whoever runs this server."
            raise NotAllowed("host", text)
    return str(min(addresses, key=str))


def _named(host: str) -> set[Address]:
    try:
        found = socket.getaddrinfo(host, None, proto=socket.IPPROTO_TCP)
    except (OSError, UnicodeError):
        raise NotAllowed("host", f"Nothing is found under “{host}”. Type its address, such as 192.168.10.40.") from None
    return {ip_address(str(one[4][0]).partition("%")[0]) for one in found}
