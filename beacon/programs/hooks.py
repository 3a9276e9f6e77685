"""Webhooks, after the Standard Webhooks specification: what happens is told, signed, and tried again for a day.

What is to be told is kept in the transaction of what it tells of. It is sent in the background, each time the same
text under the same id, so that a receiver that has it already can leave it.
"""

import base64
import json
import secrets
import time
import uuid
from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any
from urllib.parse import urlsplit

from django.db import transaction
from django.dispatch import Signal
from django.http import Http404
from django.utils import timezone
from procrastinate.contrib.django import app
from standardwebhooks.webhooks import Webhook as Signing

from beacon.metrics import HOOKS
from beacon.outside import NotAsked, Turns, ask
from beacon.people.models import Organisation, Person
from beacon.problems import Problem
from beacon.programs.models import Message, Topic, Webhook

MOST = 10
"""So many webhooks an organisation has at once."""
WAITS = [timedelta(seconds=one) for one in (5, 30, 120, 600, 1800, 3600, 7200, 14400, 21600, 28800)]
"""How long it waits after each try that failed: a good day in all."""
SECONDS = 10.0
"""So long a receiver is waited for, from its name to its answer's status; what else it says is of no use."""
KEPT_FOR = timedelta(days=30)
AT_ONCE, OF_ONE = 2, 3
"""So many messages are under way to one place, and of one organisation."""
TURN, LATER = 0.5, timedelta(seconds=3)
"""Another one waits so long for its turn, s, and then comes again later."""
SEND, QUEUE = "send a message", "hooks"
"""The task that sends one, and where it stands in line, by their names."""


message_given_up = Signal()
"""A message is not tried any more; `message` says which."""
_places, _theirs = Turns(AT_ONCE), Turns(OF_ONE)


def make(lead: Person, here: Organisation, url: str, topics: list[Topic]) -> Webhook:
    """A new webhook. Raises Problem 422 for an address that nothing is sent to."""
    if here.webhooks.filter(ended_at=None).count() >= MOST:
        raise Problem(422, "There are many already", "End one that is not used any more.")
    wrong = not_allowed(url)
    if wrong:
        raise Problem(422, "Nothing is sent there", errors=[{"path": "url", "text": wrong}])
    secret = "whsec_" + base64.b64encode(secrets.token_bytes(32)).decode()
    return Webhook.objects.create(organisation=here, url=url, topics=[one.value for one in topics], secret=secret, made_by=lead)  # fmt: skip


def not_allowed(url: str) -> str:
    """Why an address is none that a webhook may have; empty where it may."""
    parts = urlsplit(url)
    try:
        port = parts.port
    except ValueError:
        port = -1
    if parts.scheme not in ("http", "https") or not parts.hostname or port == -1 or parts.username or parts.fragment:
        return "expected an address such as https://maintenance.example/told"
    return ""


def tell(here: Organisation, topic: Topic, about: str, data: dict[str, Any], at: datetime | None = None) -> None:
    """Tells every webhook of an organisation that listens for it, once what it follows from is kept."""
    hooks = here.webhooks.filter(ended_at=None, topics__contains=[topic.value])
    at = at or timezone.now()
    for hook in hooks:
        text = json.dumps({"type": topic.value, "timestamp": at.isoformat(), "data": data}, ensure_ascii=False)
        send_soon(Message.objects.create(webhook=hook, topic=topic, text=text, about=about[:120]))


def send_soon(message: Message, after: timedelta = timedelta(0)) -> None:
    """Puts a message in line to be sent."""
    when = timezone.now() + after if after else None
    app.configure_task(SEND, queue=QUEUE, schedule_at=when).defer(message=str(message.pk), tried=message.tries)


def try_once(message_id: uuid.UUID, tried: int) -> None:
    """Sends a message, and notes what became of it; where it is not taken, it is put in line again."""
    message = Message.objects.select_related("webhook").filter(pk=message_id).first()
    # Sent by another meanwhile, or its webhook ended.
    if message is None or message.taken_at or message.tries != tried or message.webhook.ended_at:
        return
    said, taken = "", False
    until = time.monotonic() + TURN
    place, whose = urlsplit(message.webhook.url).netloc, str(message.webhook.organisation_id)
    try:
        with _places.turn(place, until), _theirs.turn(whose, until):
            said, taken = _sent(message)
    except TimeoutError:
        # A slow place holds up what goes there, and nothing else: this one comes again, and counts as no try.
        send_soon(message, LATER)
        return
    except (NotAsked, ValueError) as wrong:
        said = str(wrong) or type(wrong).__name__
    _noted(message_id, tried, said, taken)


@transaction.atomic
def _noted(message_id: uuid.UUID, tried: int, said: str, taken: bool) -> None:
    message = Message.objects.select_for_update(of=("self",)).get(pk=message_id)
    if message.tries != tried or message.taken_at:
        return
    now = timezone.now()
    message.tries, message.tried_at, message.said = tried + 1, now, said[:200]
    message.next_at = None
    if taken:
        message.taken_at = now
    elif tried < len(WAITS):
        message.next_at = now + WAITS[tried]
        send_soon(message, WAITS[tried])
    else:
        message.given_up_at = now
        message_given_up.send(Message, message=message)
    HOOKS.labels("taken" if taken else "given up" if message.given_up_at else "to be tried again").inc()
    message.save(update_fields=["tries", "tried_at", "said", "next_at", "taken_at", "given_up_at"])


def _sent(message: Message) -> tuple[str, bool]:
    """What the receiver said, and whether it took it."""
    now = timezone.now()
    headers = {
        "Content-Type": "application/json",
        "webhook-id": str(message.pk),
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Signing(message.webhook.secret).sign(str(message.pk), now, message.text),
    }
    answer = ask("POST", message.webhook.url, seconds=SECONDS, headers=headers, body=message.text.encode())
    return f"{answer.status} {answer.reason}".strip(), 200 <= answer.status < 300


@transaction.atomic
def again(here: Organisation, message_id: uuid.UUID) -> Message:
    """Sends a message again, now. Raises Http404 for another organisation's, or one whose webhook ended."""
    found = Message.objects.select_for_update(of=("self",)).select_related("webhook")
    message = found.filter(pk=message_id, webhook__organisation=here, webhook__ended_at=None).first()
    if message is None:
        raise Http404
    message.taken_at = message.given_up_at = message.next_at = None
    message.tries = 0
    message.save(update_fields=["taken_at", "given_up_at", "next_at", "tries"])
    send_soon(message)
    return message


def forget(messages: Iterable[Message] | None = None) -> int:
    """Lets go of what was told long ago."""
    return Message.objects.filter(at__lt=timezone.now() - KEPT_FOR).delete()[0]
