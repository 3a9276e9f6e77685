"""A job that was closed and sealed, for tests that begin with one."""

import io
from typing import Any

from pypdf import PdfReader

from beacon.bench.models import Job
from beacon.records.models import Record
from tests.server.plant import PlantTestCase, enter, runs
from tests.server.test_closing import IN_ORDER


class Sealed(PlantTestCase):
    """A job that was closed, as most of these begin."""

    def seal(self, texts: dict[str, str] | None = None, client: Any = None, job: Job | None = None) -> Record:
        job = job or self.plant.job()
        enter(job, self.plant.technician, texts or {"inputs.zero_done": "job"} | runs(IN_ORDER))
        closing = {"signed": "x", "outcome": "complete"}
        answer = self.send(f"/api/jobs/{job.id}/close", closing, client)
        self.assertEqual(answer.status_code, 200, answer.content)
        return Record.objects.get(job=job)

    def text_of(self, url: str) -> str:
        answer = self.client.get(url)
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(answer.content)).pages)
