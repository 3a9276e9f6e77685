"""Several things done at once, each in a thread with a database connection of its own."""

import json
import threading
from collections.abc import Callable
from typing import Any

from django.db import connections
from django.test import Client


def at_once(*acts: Callable[[], Any]) -> list[Any]:
    """What each came to, in their order. Raises what one of them raised."""
    found: list[Any] = [None] * len(acts)
    raised: list[BaseException] = []
    together = threading.Barrier(len(acts))

    def act(place: int) -> None:
        try:
            together.wait(20)
            found[place] = acts[place]()
        except BaseException as why:
            raised.append(why)
        finally:
            connections.close_all()

    threads = [threading.Thread(target=act, args=(place,)) for place in range(len(acts))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    if raised:
        raise raised[0]
    return found


def send(client: Client, path: str, body: Any, method: str = "post") -> Any:
    """What the server answers to JSON."""
    return getattr(client, method)(path, json.dumps(body), content_type="application/json")
