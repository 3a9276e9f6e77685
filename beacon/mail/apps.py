"""The mails: they hear of faults as these are kept."""

from typing import Any
from urllib.parse import urlsplit

from django.apps import AppConfig
from django.db.models.signals import post_save


class MailConfig(AppConfig):
    name = "beacon.mail"

    def ready(self) -> None:
        from beacon.background.made import Made, given_up
        from beacon.bench.models import Job, job_closed
        from beacon.mail import telling
        from beacon.people.models import Organisation
        from beacon.plant.models import Fault
        from beacon.programs.hooks import message_given_up
        from beacon.programs.models import Message

        def found(instance: Fault, created: bool, **_: Any) -> None:
            if created:
                telling.fault_found(instance)

        def closed(job: Job, **_: Any) -> None:
            if not job.practice:
                telling.closed(job)

        def not_made(made: Made, **_: object) -> None:
            assert isinstance(made.organisation, Organisation)
            telling.not_done(made.organisation, made.what, made.failed, made.page)

        def not_told(message: Message, **_: object) -> None:
            place = urlsplit(message.webhook.url).hostname
            what = f"what other programs are told at {place}"
            telling.not_done(
                message.webhook.organisation,
                what,
                f"it was tried for a day; the last answer: {message.said}. A lead can send it again.",
                "/programs",
            )

        given_up.connect(not_made, weak=False, dispatch_uid="what is not made is told by mail")
        message_given_up.connect(not_told, weak=False, dispatch_uid="what is not told is told by mail")
        job_closed.connect(closed, weak=False, dispatch_uid="a record to look at is told by mail")
        post_save.connect(found, sender=Fault, weak=False, dispatch_uid="faults are told by mail")
