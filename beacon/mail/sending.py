"""Sending mails: in the background, tried again for a day, under one Message-ID however often.

A mail server that took a mail and lost it is not heard of again: the page of mails says *handed over*, and a lead
sends one again.
"""

import uuid
from datetime import timedelta
from smtplib import SMTPException
from urllib.parse import urlsplit

from django.conf import settings
from django.core.mail import EmailMultiAlternatives
from django.core.signing import BadSignature, Signer
from django.db import transaction
from django.http import Http404
from django.utils import timezone
from procrastinate.contrib.django import app

from beacon.mail.models import Mail, Wish
from beacon.people.models import Membership, Organisation, Person, Role

WAITS = [timedelta(seconds=one) for one in (10, 60, 300, 1800, 3600, 7200, 14400, 21600, 28800)]
"""How long it waits after each try that failed: a good day in all."""
KEPT_FOR = timedelta(days=30)
SEND = "send a mail"
"""The task that sends one, by its name."""
SIGNER = Signer(salt="beacon.mail.stop")


def write(
    of: Organisation | None,
    to: Person | None,
    kind: Mail.Kind,
    subject: str,
    text: str,
    html: str,
    *,
    calendar: str = "",
    address: str = "",
) -> Mail:
    """Keeps a mail and puts it in line to be sent, in the transaction of what it tells of.

    What concerns somebody's own account is of no organisation; who is not known yet is written to by address.
    """
    made = Mail.objects.create(
        organisation=of, person=to, address=address[:150], kind=kind, subject=" ".join(subject.split())[:200],
        text=text, html=html, calendar=calendar,
    )  # fmt: skip
    send_soon(made)
    return made


def send_soon(mail: Mail, after: timedelta = timedelta(0)) -> None:
    """Puts a mail in line to be sent."""
    when = timezone.now() + after if after else None
    app.configure_task(SEND, queue="messages", schedule_at=when).defer(mail=str(mail.pk), tried=mail.tries)


def try_once(mail_id: uuid.UUID, tried: int) -> None:
    """Sends a mail, and notes what became of it; where it is not taken, it is put in line again."""
    mail = Mail.objects.select_related("person").filter(pk=mail_id).first()
    # Sent by another meanwhile; somebody who is no member any more is sent nothing that waits.
    if mail is None or mail.sent_at or mail.tries != tried or not _still(mail):
        return
    said = ""
    try:
        _message(mail).send()
    except (SMTPException, OSError, ValueError) as wrong:
        # An address that no mail can have is said as any other failure.
        said = str(wrong) or type(wrong).__name__
    _noted(mail_id, tried, said)


def _still(mail: Mail) -> bool:
    if mail.person is None or mail.kind in Mail.PRIVATE:
        return True
    return mail.person.is_active and mail.person.memberships.filter(organisation=mail.organisation_id).exists()


@transaction.atomic
def _noted(mail_id: uuid.UUID, tried: int, wrong: str) -> None:
    mail = Mail.objects.select_for_update(of=("self",)).get(pk=mail_id)
    if mail.tries != tried or mail.sent_at:
        return
    now = timezone.now()
    mail.tries, mail.said = tried + 1, wrong[:200]
    if not wrong:
        mail.sent_at = now
        if mail.kind in Mail.PRIVATE and settings.BY_MAIL:
            # A link that opens something lies nowhere longer than it has to.
            mail.text = mail.html = ""
    elif tried < len(WAITS):
        send_soon(mail, WAITS[tried])
    else:
        mail.given_up_at = now
    mail.save(update_fields=["tries", "said", "sent_at", "given_up_at", "text", "html"])


def _message(mail: Mail) -> EmailMultiAlternatives:
    host = urlsplit(settings.PUBLIC_URL).hostname or "localhost"
    headers = {"Message-ID": f"<{mail.pk}@{host}>", "Auto-Submitted": "auto-generated"}
    if mail.kind not in Mail.PRIVATE:
        stop = f"{settings.PUBLIC_URL}/api/mail/stop/{stop_token(mail)}"
        headers |= {"List-Unsubscribe": f"<{stop}>", "List-Unsubscribe-Post": "List-Unsubscribe=One-Click"}
    message = EmailMultiAlternatives(mail.subject, mail.text, settings.DEFAULT_FROM_EMAIL, [mail.to], headers=headers)
    message.attach_alternative(mail.html, "text/html")
    if mail.calendar:
        message.attach("due.ics", mail.calendar, "text/calendar")
    return message


def stop_token(mail: Mail) -> str:
    return SIGNER.sign(f"{mail.person_id}.{mail.organisation_id}.{mail.kind}")


def stop_link(mail: Mail) -> str:
    """The link that ends mails of this kind to this person."""
    return f"{settings.PUBLIC_URL}/mail/stop/{stop_token(mail)}"


def stop(token: str) -> str:
    """Ends the mails that a link is of, and says which. Raises Http404 for one that is none."""
    try:
        person, organisation, kind = SIGNER.unsign(token).split(".")
        words = Mail.Kind(kind).label
        member = Membership.objects.filter(person=int(person), organisation=uuid.UUID(organisation)).first()
    except (BadSignature, ValueError):
        raise Http404 from None
    if member is not None:
        wish, _ = Wish.objects.get_or_create(
            person=member.person, organisation=member.organisation, defaults={"chain": member.role == Role.LEAD}
        )
        if kind == Mail.Kind.DUE:
            wish.days = []
        elif kind == Mail.Kind.FAULT:
            wish.faults = False
        elif kind == Mail.Kind.LOOK:
            wish.looks = False
        else:
            wish.chain = False
        wish.save(update_fields=["days", "faults", "looks", "chain"])
    return str(words)


def again(here: Organisation, mail_id: uuid.UUID) -> Mail:
    """Sends a mail again, now. Raises Http404 for another organisation's."""
    with transaction.atomic():
        mail = Mail.objects.select_for_update(of=("self",)).select_related("person").filter(pk=mail_id, organisation=here).first()  # fmt: skip
        if mail is None or not mail.text:
            raise Http404
        mail.sent_at = mail.given_up_at = None
        mail.tries, mail.said = 0, ""
        mail.save(update_fields=["sent_at", "given_up_at", "tries", "said"])
        send_soon(mail)
    return mail
