"""The load log: open, recording, stored; totals, CSV, tickets that come later."""

import datetime
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.db import connection
from django.test import Client
from django.utils import timezone

from beacon.bench.models import Job
from beacon.bench.revisions import snapshot_of
from beacon.loads.models import Load, LoadChange
from tests.emptied import EmptiedTestCase
from tests.server.plant import Plant, PlantTestCase, today


class LoadLog(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.cart = self.plant.add_system("Harvest trailer", "cart", "load-cart", {"indicated_division": "0.02 t"})
        self.client = self.signed_in(self.plant.technician)
        self.url = f"/api/systems/{self.cart.id}/loads"

    def begin(self, **given: Any) -> dict[str, Any]:
        answer = self.send(self.url, given)
        self.assertEqual(answer.status_code, 201, answer.content)
        return dict(answer.json())

    def change(self, load: dict[str, Any], **given: Any) -> Any:
        return self.send(f"/api/loads/{load['id']}", given, method="patch")

    def stored(self, shows: str, **more: Any) -> dict[str, Any]:
        answer = self.change(self.begin(), indicated=shows, store=True, **more)
        self.assertEqual(answer.status_code, 200, answer.content)
        return dict(answer.json())

    def test_a_load_is_open_then_recording_then_stored(self) -> None:
        load = self.begin(destination="Drying House", material="wet kelp", how="signal")
        self.assertEqual(
            (load["number"], load["state"], load["operator"], load["how"]), (1, "open", "Technician", "signal")
        )
        self.assertEqual(self.change(load, indicated="7,3").json()["state"], "recording")
        kept = self.change(load, indicated="7,42", store=True).json()
        self.assertEqual((kept["state"], kept["indicated"], kept["changes"]), ("stored", "7.42 t", []))
        self.assertIsNotNone(kept["end"])
        self.assertEqual(self.begin()["number"], 2)

    def test_what_is_changed_after_it_was_stored_stays_visible(self) -> None:
        load = self.stored("7.42 t")
        later = self.change(load, indicated="7.24", ticket="7,40", moved=True).json()
        self.assertEqual(
            [(c["field"], c["before"], c["after"]) for c in later["changes"]],
            [("indicated", "7.42 t", "7.24 t"), ("moved", "False", "True")],
        )
        self.assertEqual((later["ticket"], later["state"]), ("7.40 t", "stored"))
        self.assertEqual(LoadChange.objects.get(field="indicated").who, self.plant.technician)

    def test_what_cannot_be_read_is_said_by_its_field_and_changes_nothing(self) -> None:
        load = self.begin()
        for given, path in (
            ({"indicated": "7 m"}, "indicated"),
            ({"ticket": "-4 t"}, "ticket"),
            ({"store": True}, "indicated"),
        ):
            answer = self.change(load, **given)
            self.assertEqual((answer.status_code, answer.json()["errors"][0]["path"]), (422, path))
        self.assertEqual(Load.objects.get().state, "open")

    def test_totals_by_day_destination_and_material(self) -> None:
        for shows, to in (("7.42 t", "Loft"), ("5180 kg", "Loft"), ("8 t", "")):
            self.change(self.stored(shows), destination=to, **({"ticket": "7.4 t"} if to else {}))
        self.begin()
        by = {row["name"]: row for row in self.client.get(f"{self.url}/totals?by=destination").json()}
        self.assertEqual((by["Loft"]["loads"], by["Loft"]["total"], by["Loft"]["tickets"]), (2, "12.6 t", 2))
        self.assertEqual(by["not said"]["total"], "8 t")
        (day,) = self.client.get(f"{self.url}/totals").json()
        self.assertEqual((day["loads"], day["total"]), (3, "20.6 t"))
        self.assertEqual(day["name"], today().isoformat())

    def test_tickets_that_came_later_make_runs_of_a_comparison(self) -> None:
        pairs = (("7.44 t", "7.42 t"), ("5.18 t", "5.18 t"), ("8.46 t", "8.06 t"), ("6.36 t", "6.34 t"))
        loads = [self.stored(shows) for shows, _ in pairs]
        nothing = self.send(f"{self.url}/compare", {})
        self.assertEqual(nothing.status_code, 422)
        for load, (_, ticket) in zip(loads, pairs, strict=True):
            self.change(load, ticket=ticket)
        self.change(loads[2], moved=True)
        self.assertEqual(self.client.get(self.url).json()["to_compare"], 4)
        job = Job.objects.get(pk=self.send(f"{self.url}/compare", {}).json()["job"])
        part = snapshot_of(job).main
        self.assertEqual(
            (part.assessment.call, part.assessment.as_json()["results"]["runs_in_set"]["value"]), ("leave", 3)
        )
        self.assertIn("moved", part.built.file["inputs"]["runs"][2]["set_aside"])
        log = self.client.get(self.url).json()
        self.assertEqual((log["to_compare"], {load["job"] for load in log["loads"]}), (0, {str(job.pk)}))

    def test_the_log_goes_out_and_comes_in_again(self) -> None:
        self.change(self.stored("7.42 t", ticket="7.40 t"), material="=kelp")
        self.begin()
        text = self.client.get(f"{self.url}.csv").content
        self.assertIn(b"'=kelp", text)
        other = self.plant.add_system("Second trailer", "cart", "load-cart", {})
        answer = self.client.post(f"/api/systems/{other.id}/loads.csv", text, content_type="text/csv")
        self.assertEqual((answer.status_code, answer.json()), (200, {"loads": 2}))
        again = self.client.post(f"/api/systems/{other.id}/loads.csv", text, content_type="text/csv")
        self.assertEqual((again.status_code, len(again.json()["errors"])), (422, 2))
        self.assertEqual(Load.objects.filter(channel__system=other).count(), 2)
        wrong = self.client.post(f"{self.url}.csv", b"start,indicated\n2026-05-04,7 m\n", content_type="text/csv")
        self.assertEqual((wrong.status_code, wrong.json()["errors"][0]["path"]), (422, "line 2, indicated"))

    def test_only_machines_that_keep_loads_have_a_log(self) -> None:
        self.assertEqual(self.client.get(f"/api/systems/{self.plant.system.id}/loads").status_code, 404)
        self.assertFalse(self.client.get(f"/api/systems/{self.plant.system.id}").json()["keeps_loads"])
        self.assertTrue(self.client.get(f"/api/systems/{self.cart.id}").json()["keeps_loads"])

    def test_ten_thousand_loads_are_paged_with_as_many_questions_as_ten(self) -> None:
        channel, now = self.cart.channels.get(), timezone.now()
        Load.objects.bulk_create(
            Load(channel=channel, number=n, state="stored", started_at=now - datetime.timedelta(minutes=9 * n), indicated="7 t", mass=7000.0,
                 destination=f"yard {n % 7}", by=self.plant.technician)
            for n in range(1, 10_001)
        )  # fmt: skip
        with self.assertNumQueries(9):
            page = self.client.get(self.url).json()
        self.assertEqual((len(page["loads"]), page["loads"][0]["number"], page["earlier"]), (100, 10_000, 9_901))
        earlier = self.client.get(f"{self.url}?before={page['earlier']}").json()
        self.assertEqual(earlier["loads"][0]["number"], 9_900)
        found = self.client.get(f"{self.url}?find=4321").json()
        self.assertEqual([load["number"] for load in found["loads"]], [4321])
        self.assertEqual(len(self.client.get(f"{self.url}/totals?by=destination").json()), 7)


class ManyHands(EmptiedTestCase):
    def test_two_who_begin_at_once_take_two_numbers(self) -> None:
        plant = Plant("Gannet Ness")
        cart = plant.add_system("Trailer", "cart", "load-cart", {})

        def begin(_: int) -> int:
            client = Client()
            client.force_login(plant.technician)
            try:
                answer = client.post(f"/api/systems/{cart.id}/loads", {}, content_type="application/json")
                return int(answer.json()["number"])
            finally:
                connection.close()

        with ThreadPoolExecutor(4) as pool:
            self.assertEqual(sorted(pool.map(begin, range(8))), list(range(1, 9)))
