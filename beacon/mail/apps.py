"""The mails: they hear of faults as these are kept."""

from typing import Any

from django.apps import AppConfig
from django.db.models.signals import post_save


class MailConfig(AppConfig):
    name = "beacon.mail"

    def ready(self) -> None:
        from beacon.bench.models import Job, job_closed
        from beacon.mail import telling
        from beacon.plant.models import Fault

        def found(instance: Fault, created: bool, **_: Any) -> None:
            if created:
                telling.fault_found(instance)

        def closed(job: Job, **_: Any) -> None:
            if not job.practice:
                telling.closed(job)

        job_closed.connect(closed, weak=False, dispatch_uid="a record to look at is told by mail")
        post_save.connect(found, sender=Fault, weak=False, dispatch_uid="faults are told by mail")
