"""What the large benchmark fills a database with is what it would be had somebody typed it."""

from beacon.bench.models import Entry, Job
from beacon.records.models import Record
from beacon.records.verifying import Broken, verify
from tests.emptied import EmptiedTestCase
from tests.large.filling import MACHINES, Template, fill, the_lead
from tests.large.measuring import closed


class Filled(EmptiedTestCase):
    def test_every_chain_fits_and_a_job_more_is_chained_to_it(self) -> None:
        template = Template()
        fill(template, 0, 2, 2 * MACHINES)
        self.assertEqual(Record.objects.count(), 1 + 4 * MACHINES)
        self.assertEqual(Entry.objects.count(), template.entries * (1 + 4 * MACHINES))
        # What is sealed in between takes a number of all records, too.
        took, held = closed(0, 3)
        self.assertGreater(took, held)
        fill(template, 2, 1, 2 * MACHINES)
        found = list(verify())
        self.assertEqual([str(one) for one in found if isinstance(one, Broken)], [])
        self.assertEqual(len(found), 4)
        self.client.force_login(the_lead(1))
        log = self.client.get("/api/log").json()
        self.assertEqual((log["rows"][0]["number"], log["rows"][0]["system_name"]), (2 * MACHINES, "Conveyor 1"))
        self.assertEqual(self.client.get(f"/api/records/{log['rows'][0]['record']}").status_code, 200)
        self.assertEqual(self.client.get("/api/round").status_code, 200)
        self.assertEqual(Job.objects.filter(channel__system__site__organisation__name="Filled 0002").count(), 2 * MACHINES)  # fmt: skip
