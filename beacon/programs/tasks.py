"""What is done in the background for other programs."""

import uuid

from procrastinate.contrib.django import app

from beacon.programs import hooks, telling


@app.task(name=hooks.SEND, queue="messages")
def send(message: str, tried: int) -> None:
    """Sends a message of a webhook, where it was not sent since."""
    hooks.try_once(uuid.UUID(message), tried)


@app.periodic(cron="15 4 * * *")
@app.task(name="tell of the day", queueing_lock="tell of the day")
def of_the_day(timestamp: int) -> None:
    """Every night: what is due, what runs out, and what was told long ago is let go of."""
    telling.of_the_day()
    hooks.forget()
