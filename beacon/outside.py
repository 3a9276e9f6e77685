"""What lies outside this server, and how it is asked: a webhook's receiver, an organisation's own sign-in.

One place for all of it. The address behind a name is looked at before anything is connected to, and that very address
is connected to; the whole, from the name to the last byte that is read, has a deadline; no connection of the database
is held meanwhile; of one host, and for one organisation, a few are asked at a time, so that a slow one holds up itself
alone, and an organisation with many slow ones its own people.
"""

import http.client
import ipaddress
import socket
import ssl
import threading
import time
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager, nullcontext, suppress
from dataclasses import dataclass
from urllib.parse import urlsplit

import certifi
from django.conf import settings

from beacon.database.letting_go import let_go

AT_ONCE, OF_ONE = 3, 4
"""So many are asked at a time of one host, and for one organisation."""
MOST_NAMES = 32
"""So many names are looked up at a time; a resolver that does not answer holds no more."""
PIECE = 16 * 1024
NAT64 = (ipaddress.ip_network("64:ff9b::/96"), ipaddress.ip_network("64:ff9b:1::/48"))
COMPATIBLE = ipaddress.ip_network("::/96")
USER_AGENT = "Wary Beacon"

Address = ipaddress.IPv4Address | ipaddress.IPv6Address


class NotAsked(OSError):
    """Why something outside was not asked, or did not answer, in words."""


@dataclass(frozen=True)
class Answered:
    """What was answered; `content` is as much as was wanted of it."""

    status: int
    reason: str
    headers: dict[str, str]
    content: bytes


def _meant(one: Address) -> Iterator[Address]:
    """An address, and whichever it leads to by being written within another one."""
    yield one
    if isinstance(one, ipaddress.IPv4Address):
        return
    within = [one.ipv4_mapped, one.sixtofour, *(one.teredo or ())]
    if any(one in network for network in NAT64) or one in COMPATIBLE and int(one) > 1:
        within.append(ipaddress.IPv4Address(int(one) & 0xFFFFFFFF))
    if one in NAT64[1]:
        # Its prefix may be of 48 bits, with the address around the eight bits that are left out (RFC 6052).
        within.append(ipaddress.IPv4Address((int(one) >> 64 & 0xFFFF) << 16 | int(one) >> 40 & 0xFFFF))
    yield from (found for found in within if found is not None)


def may_be_asked(address: str) -> bool:
    """Whether anything may be asked at an address: in the allowed networks; one that is not public only where it is
    named.

    What is written within an address (mapped, NAT64, 6to4, Teredo) has to be allowed as well.
    """
    written = ipaddress.ip_address(address.split("%")[0])
    mapped = getattr(written, "ipv4_mapped", None)
    networks = [ipaddress.ip_network(text) for text in settings.WEBHOOK_NETWORKS]
    return all(
        any(
            one.version == network.version and one in network and (one.is_global or network.prefixlen > 0)
            for network in networks
        )
        for one in _meant(mapped or written)
    )


def addresses(host: str, port: int, until: float) -> list[str]:
    """The addresses behind a name that may be asked. Raises NotAsked where there is none, or none by then."""
    found: list[str] = []
    failed = []

    def look() -> None:
        try:
            found.extend(str(one[4][0]) for one in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM))
        except (OSError, UnicodeError) as wrong:
            failed.append(wrong)
        finally:
            _names.release()

    if not _names.acquire(timeout=max(0.0, until - time.monotonic())):
        raise NotAsked(f"{host} was not looked up in time")
    looking = threading.Thread(target=look, daemon=True)
    looking.start()
    looking.join(max(0.0, until - time.monotonic()))
    if looking.is_alive():
        raise NotAsked(f"{host} was not found in time")
    if failed:
        raise NotAsked(f"{host} is not known")
    allowed = [one for one in dict.fromkeys(found) if may_be_asked(one)]
    if not allowed:
        raise NotAsked(f"{host} is at an address that may not be asked")
    return allowed


def ask(
    method: str,
    url: str,
    *,
    seconds: float,
    headers: dict[str, str] | None = None,
    body: bytes | None = None,
    most: int = 0,
    whose: str = "",
) -> Answered:
    """Asks once; no redirect is followed, and no proxy known.

    `seconds` is for the whole of it, `most` bytes of the answer are read, and one that is longer raises; with 0 its
    status alone is taken. `whose` names the organisation that it is asked for. Raises NotAsked, with why.
    """
    until = time.monotonic() + seconds
    parts = urlsplit(url)
    host, secure = parts.hostname or "", parts.scheme == "https"
    port = parts.port or (443 if secure else 80)
    let_go()
    try:
        with _theirs.turn(whose, until) if whose else nullcontext(), _hosts.turn(f"{host}:{port}", until):
            found = addresses(host, port, until)
            with _connected(found, port, host if secure else "", until) as connection:
                target = f"{parts.path or '/'}{f'?{parts.query}' if parts.query else ''}"
                written = parts.netloc.rpartition("@")[2]
                connection.request(method, target, body, {"Host": written, "User-Agent": USER_AGENT} | (headers or {}))
                answer = connection.getresponse()
                content = _read(answer, most)
                if most and time.monotonic() >= until:
                    # What was cut off reads as what came to its end.
                    raise TimeoutError
                return Answered(answer.status, answer.reason, dict(answer.getheaders()), content)
    except NotAsked:
        raise
    except (OSError, http.client.HTTPException, ValueError) as wrong:
        if time.monotonic() >= until:
            raise NotAsked(f"{host} did not answer in {seconds:g} s") from wrong
        raise NotAsked(str(wrong) or type(wrong).__name__) from wrong


def _read(answer: http.client.HTTPResponse, most: int) -> bytes:
    read = b""
    while most and (part := answer.read1(PIECE)):
        read += part
        if len(read) > most:
            raise ValueError("the answer is too long")
    return read


@contextmanager
def _connected(found: list[str], port: int, name: str, until: float) -> Iterator[http.client.HTTPConnection]:
    """A connection to the first of some addresses that takes one. What is under way on it ends at the deadline."""
    wrong: OSError = NotAsked("it did not answer in time")
    for address in found:
        left = until - time.monotonic()
        if left <= 0:
            break
        try:
            plain = _to(address, port, left)
        except OSError as failed:
            wrong = failed
            continue
        # A timeout of the socket is for each piece: whoever sends one byte after the other would never meet it.
        watched = plain.dup()
        over = threading.Timer(max(0.0, until - time.monotonic()), _cut, [watched])
        over.daemon = True
        over.start()
        try:
            connection = http.client.HTTPConnection(address, port)
            connection.sock = _trust().wrap_socket(plain, server_hostname=name) if name else plain
            yield connection
        finally:
            over.cancel()
            with suppress(OSError):
                watched.close()
            connection.close()
            plain.close()
        return
    raise wrong


def _to(address: str, port: int, seconds: float) -> socket.socket:
    # Nothing is looked up here any more: what was looked at is what is connected to.
    made = socket.socket(socket.AF_INET6 if ":" in address else socket.AF_INET, socket.SOCK_STREAM)
    try:
        made.settimeout(seconds)
        made.connect((address, port))
    except BaseException:
        made.close()
        raise
    return made


def _cut(connection: socket.socket) -> None:
    with suppress(OSError):
        connection.shutdown(socket.SHUT_RDWR)


def _trust() -> ssl.SSLContext:
    trusted = ssl.create_default_context()
    trusted.load_verify_locations(certifi.where())
    return trusted


class Turns:
    """So many turns at a time for each of several, by name; a name that nobody waits for is forgotten."""

    def __init__(self, at_once: int) -> None:
        self.at_once = at_once
        self._lock = threading.Lock()
        self._turns: dict[str, threading.BoundedSemaphore] = {}
        self._wanted: dict[str, int] = defaultdict(int)

    @contextmanager
    def turn(self, name: str, until: float) -> Iterator[None]:
        """One of them. Raises TimeoutError where none is free by then."""
        with self._lock:
            turns = self._turns.setdefault(name, threading.BoundedSemaphore(self.at_once))
            self._wanted[name] += 1
        try:
            if not turns.acquire(timeout=max(0.0, until - time.monotonic())):
                raise TimeoutError(f"{name} does not answer those who asked before")
            try:
                yield
            finally:
                turns.release()
        finally:
            with self._lock:
                self._wanted[name] -= 1
                if not self._wanted[name]:
                    del self._wanted[name], self._turns[name]


_names = threading.BoundedSemaphore(MOST_NAMES)
_hosts = Turns(AT_ONCE)
_theirs = Turns(OF_ONE)
