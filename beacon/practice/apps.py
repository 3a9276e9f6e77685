"""A practice is scored when its job is closed."""

from typing import Any

from django.apps import AppConfig


class PracticeConfig(AppConfig):
    name = "beacon.practice"

    def ready(self) -> None:
        from beacon.bench.models import Job, job_closed
        from beacon.practice.scoring import keep_score

        def closed(sender: Any, job: Job, **_: Any) -> None:
            if job.practice:
                keep_score(job)

        job_closed.connect(closed, weak=False, dispatch_uid="practice is scored")
