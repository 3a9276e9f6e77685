"""How a provider is asked: as everything outside is, by the one way of `beacon.outside`."""

import io
from typing import Any

import requests
from requests.adapters import BaseAdapter
from requests.structures import CaseInsensitiveDict

from beacon.outside import NotAsked, ask

MOST_READ = 512 * 1024
"""So much of an answer is read at most, in bytes."""
SECONDS = 8.0
"""How long a provider is waited for, from its name to the last byte of its answer."""


class _Adapter(BaseAdapter):
    def __init__(self, whose: str) -> None:
        super().__init__()
        self.whose = whose

    def send(self, request: requests.PreparedRequest, *given: Any, **more: Any) -> requests.Response:
        body = request.body.encode() if isinstance(request.body, str) else request.body
        assert body is None or isinstance(body, bytes)
        headers = {key: str(value) for key, value in request.headers.items()}
        try:
            found = ask(
                str(request.method), str(request.url), seconds=SECONDS, headers=headers, body=body, most=MOST_READ,
                whose=self.whose,
            )  # fmt: skip
        except NotAsked as wrong:
            raise requests.ConnectionError(str(wrong), request=request) from wrong
        answer = requests.Response()
        answer.status_code, answer.reason, answer.url = found.status, found.reason, str(request.url)
        answer.headers, answer.request = CaseInsensitiveDict(found.headers), request
        answer._content, answer.raw = found.content, io.BytesIO()
        answer.encoding = requests.utils.get_encoding_from_headers(answer.headers)
        return answer

    def close(self) -> None:
        pass


class Asking(requests.Session):
    """A session that follows no redirect and knows no proxy; `whose` names the organisation that it asks for."""

    def __init__(self, whose: str = "") -> None:
        super().__init__()
        self.trust_env = False
        self.max_redirects = 0
        # An answer that is packed would be unpacked by nobody.
        self.headers["Accept-Encoding"] = "identity"
        for scheme in ("http://", "https://"):
            self.mount(scheme, _Adapter(whose))
