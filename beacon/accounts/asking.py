"""How a provider is asked: only where it may be, whatever its name leads to at that moment, and never for much."""

import ipaddress
import socket
from typing import Any

import requests
from requests.adapters import HTTPAdapter
from urllib3.connection import HTTPConnection, HTTPSConnection
from urllib3.connectionpool import HTTPConnectionPool, HTTPSConnectionPool
from urllib3.poolmanager import PoolManager

from beacon.outside import may_be_asked

MOST_READ = 512 * 1024
"""So much of an answer is read at most, in bytes."""


class NotAllowed(requests.ConnectionError):
    """A provider's name led to an address that nothing may be asked at."""


def _only_allowed(sock: socket.socket) -> socket.socket:
    # The address that was reached is looked at, not the name: a name may lead elsewhere by then.
    if not may_be_asked(str(ipaddress.ip_address(str(sock.getpeername()[0]).split("%")[0]))):
        sock.close()
        raise NotAllowed("this address may not be asked")
    return sock


class _Plain(HTTPConnection):
    def _new_conn(self) -> socket.socket:
        return _only_allowed(super()._new_conn())


class _Secure(HTTPSConnection):
    def _new_conn(self) -> socket.socket:
        return _only_allowed(super()._new_conn())


class _PlainPool(HTTPConnectionPool):
    ConnectionCls = _Plain


class _SecurePool(HTTPSConnectionPool):
    ConnectionCls = _Secure


class _Adapter(HTTPAdapter):
    def init_poolmanager(self, *given: Any, **more: Any) -> None:
        self.poolmanager = PoolManager(*given[:1], **more)
        self.poolmanager.pool_classes_by_scheme = {"http": _PlainPool, "https": _SecurePool}

    def send(self, request: requests.PreparedRequest, *given: Any, **more: Any) -> requests.Response:
        answer = super().send(request, *given, **(more | {"stream": True, "proxies": {}}))
        read = b""
        for part in answer.iter_content(16 * 1024):
            read += part
            if len(read) > MOST_READ:
                answer.close()
                raise requests.ConnectionError("the answer is too long")
        answer._content = read
        return answer


class Asking(requests.Session):
    """A session that follows no redirect and knows no proxy."""

    def __init__(self) -> None:
        super().__init__()
        self.trust_env = False
        self.max_redirects = 0
        for scheme in ("http://", "https://"):
            self.mount(scheme, _Adapter())
