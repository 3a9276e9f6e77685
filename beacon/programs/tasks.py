"""What is done in the background for other programs."""

import uuid

from procrastinate.contrib.django import app

from beacon.background.patience import PATIENT
from beacon.background.sweeping import long_enough_ago, not_in_line, swept
from beacon.programs import hooks, telling
from beacon.programs.models import Message


@app.task(name=hooks.SEND, queue=hooks.QUEUE, retry=PATIENT)
def send(message: str, tried: int) -> None:
    """Sends a message of a webhook, where it was not sent since."""
    hooks.try_once(uuid.UUID(message), tried)


@app.periodic(cron="20 * * * *")
@app.task(name="tell of the day", queueing_lock="tell of the day", retry=PATIENT)
def of_the_day(timestamp: int) -> None:
    """Every hour, as it is another day in some zone: what is due, what runs out, and what was told long ago is let go
    of."""
    telling.of_the_day()
    hooks.forget()


@swept
def left_behind() -> int:
    """Puts messages in line again that were neither taken nor given up, and are in none."""
    waiting = Message.objects.filter(taken_at=None, given_up_at=None, webhook__ended_at=None, at__lt=long_enough_ago())
    left = not_in_line(hooks.SEND, "message", waiting.values_list("pk", flat=True))
    for message in Message.objects.filter(pk__in=left).select_related("webhook"):
        hooks.send_soon(message)
    return len(left)
