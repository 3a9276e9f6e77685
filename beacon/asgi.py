"""The application as an ASGI server runs it."""

import asyncio
import gc
import json
import os
import warnings
from collections.abc import Awaitable, Callable
from typing import Any

# What is imported stays: to look through it for what could be let go of takes a sixth of the start.
gc.disable()

from django.core.asgi import get_asgi_application  # noqa: E402
from django.urls import get_resolver  # noqa: E402

from beacon.web import GUARDED  # noqa: E402

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "beacon.settings")
# Static files are read in pieces by a thread: nothing that whoever starts the server could mend.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume")

MOST_BYTES = 5 * 1024 * 1024
MOST_OF_A_FILE = 21 * 1024 * 1024
LONGEST_COUNT = 20
"""So many digits a size may have that is read at all."""
TOO_LARGE = json.dumps(
    {
        "type": "about:blank", "title": "Too much at once", "status": 413, "errors": [],
        "detail": "At most 20 MB of a photograph or PDF, and 5 MB of anything else, are taken at once.",
    }
).encode()  # fmt: skip

Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]


class _TooMuch(Exception):
    pass


def bounded(application: Any) -> Any:
    """Ends a request whose body is too large, before anything of it is put away: as said, or as counted."""

    async def answer(scope: dict[str, Any], receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await _lived(receive, send)
            return
        if scope["type"] != "http":
            await application(scope, receive, send)
            return
        most = MOST_OF_A_FILE if scope["path"].endswith("/attachments") else MOST_BYTES
        said = dict(scope["headers"]).get(b"content-length", b"0")
        taken, begun = 0, False

        async def counted() -> dict[str, Any]:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                raise _TooMuch
            return message

        async def noted(message: dict[str, Any]) -> None:
            nonlocal begun
            begun = True
            await send(message)

        try:
            if not said.isdigit() or len(said) > LONGEST_COUNT or int(said) > most:
                raise _TooMuch
            await application(scope, counted, noted)
        except _TooMuch:
            if not begun:
                headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
                headers += [(name.lower().encode(), text.encode()) for name, text in GUARDED.items()]
                await send({"type": "http.response.start", "status": 413, "headers": headers})
                await send({"type": "http.response.body", "body": TOO_LARGE})

    return answer


async def _lived(receive: Receive, send: Send) -> None:
    """What this process does beside answering, from its start to its end: live weights, and what is done in the background."""
    beside: list[asyncio.Task[None]] = []
    while True:
        message = await receive()
        if message["type"] == "lifespan.startup":
            from django.conf import settings

            from beacon.background.worker import keep_working
            from beacon.database.base import keep_looking
            from beacon.loads.watching import keep_watch

            beside.append(asyncio.create_task(keep_watch()))
            beside.append(asyncio.create_task(keep_looking()))
            if settings.WORKS:
                beside.append(asyncio.create_task(keep_working()))
            await send({"type": "lifespan.startup.complete"})
        elif message["type"] == "lifespan.shutdown":
            for one in beside:
                one.cancel()
            await asyncio.gather(*beside, return_exceptions=True)
            await send({"type": "lifespan.shutdown.complete"})
            return


application = bounded(get_asgi_application())
# What the first request would have to read is read before the server answers at all: the API with its methods and machines.
get_resolver().url_patterns  # noqa: B018
gc.freeze()
gc.enable()
