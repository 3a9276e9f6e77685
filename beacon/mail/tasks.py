"""What is done in the background by mail, and the night's walk of the chains."""

import uuid

from procrastinate.contrib.django import app

from beacon.background.patience import PATIENT
from beacon.background.sweeping import long_enough_ago, not_in_line, swept
from beacon.mail import sending, telling
from beacon.mail.models import Mail
from beacon.people.models import Organisation
from beacon.records.noting import verify_and_note


@app.task(name=sending.SEND, queue="messages", retry=PATIENT)
def send(mail: str, tried: int) -> None:
    """Sends a mail, where it was not sent since."""
    sending.try_once(uuid.UUID(mail), tried)


@app.periodic(cron="*/10 * * * *")
@app.task(name="tell what is due", queueing_lock="tell what is due", retry=PATIENT)
def due(timestamp: int) -> None:
    """Writes what is due to everyone whose day and hour it is."""
    telling.due_now()


@app.periodic(cron="40 2 * * *")
@app.task(name="walk the chains", queue="nightly", queueing_lock="walk the chains", retry=PATIENT)
def walk(timestamp: int) -> None:
    """Every night: walks the chain of each organisation; a lead hears of one that does not fit."""
    for here in Organisation.objects.order_by("pk"):
        found = verify_and_note(here)
        if found.broken:
            telling.chain_broken(here, found)


@swept
def left_behind() -> int:
    """Puts mails in line again that were neither sent nor given up, and are in none."""
    waiting = Mail.objects.filter(sent_at=None, given_up_at=None, at__lt=long_enough_ago())
    left = not_in_line(sending.SEND, "mail", waiting.values_list("pk", flat=True))
    for mail in Mail.objects.filter(pk__in=left):
        sending.send_soon(mail)
    return len(left)
