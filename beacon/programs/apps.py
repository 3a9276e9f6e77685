"""Other programs: they hear of what happens as it is kept."""

from typing import Any

from django.apps import AppConfig
from django.db.models.signals import post_save


class ProgramsConfig(AppConfig):
    name = "beacon.programs"

    def ready(self) -> None:
        from beacon.bench.models import Job, job_closed
        from beacon.plant.models import Fault, System, state_changed
        from beacon.programs import telling

        def closed(job: Job, **_: Any) -> None:
            if not job.practice:
                telling.closed(job)

        def changed(system: System, before: str, **_: Any) -> None:
            telling.state_changed(system, before)

        def found(instance: Fault, created: bool, **_: Any) -> None:
            if created:
                telling.fault_found(instance)

        job_closed.connect(closed, weak=False, dispatch_uid="a closed job is told")
        state_changed.connect(changed, weak=False, dispatch_uid="another state is told")
        post_save.connect(found, sender=Fault, weak=False, dispatch_uid="a fault is told")
