"""What is done in the background by mail, and the night's walk of the chains."""

import uuid

from procrastinate.contrib.django import app

from beacon.mail import sending, telling
from beacon.people.models import Organisation
from beacon.records.noting import verify_and_note


@app.task(name=sending.SEND, queue="messages")
def send(mail: str, tried: int) -> None:
    """Sends a mail, where it was not sent since."""
    sending.try_once(uuid.UUID(mail), tried)


@app.periodic(cron="*/10 * * * *")
@app.task(name="tell what is due", queueing_lock="tell what is due")
def due(timestamp: int) -> None:
    """Writes what is due to everyone whose day and hour it is."""
    telling.due_now()


@app.periodic(cron="40 2 * * *")
@app.task(name="walk the chains", queueing_lock="walk the chains")
def walk(timestamp: int) -> None:
    """Every night: walks the chain of each organisation; a lead hears of one that does not fit."""
    for here in Organisation.objects.order_by("pk"):
        found = verify_and_note(here)
        if found.broken:
            telling.chain_broken(here, found)
