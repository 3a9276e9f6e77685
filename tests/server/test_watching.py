"""Loads that a live weight begins and stores with no page open; who may listen, and for how long."""

import asyncio
import contextlib
import json
import time
import uuid
from collections.abc import Callable
from unittest import mock

from asgiref.sync import sync_to_async
from django.test import Client
from django.utils import timezone

from beacon.links.models import Link
from beacon.links.streams import given_back
from beacon.loads import watching
from beacon.loads.models import Load, Watch
from beacon.people.models import Membership, Person
from beacon.people.still import Listener, listening_as
from tests.emptied import EmptiedTestCase
from tests.server.on_the_line import FILLED, on_the_line
from tests.server.plant import Plant
from tests.server.test_links import where
from wary.loads import Rise


class LoadsByThemselves(EmptiedTestCase):
    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")
        plates = {"indicated_division": "20 kg", "capacity": "14 t"}
        self.cart = self.plant.add_system("Harvest trailer", "cart", "load-cart", plates)
        self.channel = self.cart.channels.get()
        self.of = watching.watched(self.channel, self.plant.technician.pk, where(1))

    def test_how_much_is_a_load_follows_from_the_plates(self) -> None:
        self.assertEqual((self.of.division, self.of.least), (20.0, 400.0))

    def test_a_rise_opens_a_load_and_standing_stores_it_in_whole_divisions(self) -> None:
        load = watching._begin(self.of)
        self.assertEqual(Load.objects.get(id=load).state, "open")
        watching._store(self.of, load, Rise(10.0, 20.0, 3911.0, False), 20.0)
        kept = Load.objects.get(id=load)
        self.assertEqual((kept.state, kept.how, kept.indicated, kept.moved), ("stored", "steady", "3920 kg", False))

    def test_where_to_and_what_are_as_at_the_last_load(self) -> None:
        watching._store(self.of, watching._begin(self.of), Rise(10.0, 20.0, 3911.0, False), 20.0)
        Load.objects.update(destination="Drying House", material="wet kelp")
        load = Load.objects.get(id=watching._begin(self.of))
        self.assertEqual((load.number, load.destination, load.material), (2, "Drying House", "wet kelp"))

    def test_two_watches_make_one_load(self) -> None:
        other = watching.watched(self.channel, self.plant.lead.pk, where(1))
        one, two = watching._begin(self.of), watching._begin(other)
        self.assertEqual(one, two)
        over = Rise(10.0, 20.0, 3900.0, True)
        watching._store(self.of, one, over, 20.0)
        watching._store(other, two, over, 20.0)
        # A third came too late to see it begin.
        watching._store(other, None, over, 20.0)
        self.assertEqual(Load.objects.count(), 1)
        self.assertTrue(Load.objects.get().moved)

    def link(self, port: int) -> Link:
        link = Link.objects.create(
            organisation=self.plant.organisation, name="Trailer", host="127.0.0.1", address="127.0.0.1", port=port, most="14 t",
            changed_by=self.plant.lead,
        )  # fmt: skip
        link.systems.add(self.cart)
        return link

    def watched_until(self, enough: Callable[[], bool], me: str = "one") -> None:
        """Keeps watch as a process of the server does, until something is so."""

        async def run() -> None:
            watch = asyncio.create_task(watching.keep_watch())
            until = time.monotonic() + 40
            while time.monotonic() < until and not watch.done():
                if await sync_to_async(asked, thread_sensitive=False)():
                    break
                await asyncio.sleep(0.1)
            watch.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await watch

        def asked() -> bool:
            try:
                return enough()
            finally:
                given_back()

        with mock.patch.object(watching, "ME", me), mock.patch.object(watching, "RENEWED", 0.2):
            asyncio.run(run())

    def test_a_live_weight_keeps_the_log_with_no_page_open_and_another_process_goes_on_with_it(self) -> None:
        client = Client()
        client.force_login(self.plant.technician)
        url = f"/api/systems/{self.cart.id}/loads"
        with on_the_line("cart") as (instrument, port):
            body = json.dumps({"link": str(self.link(port).id)})
            begun = client.post(f"{url}/watch", body, content_type="application/json")
            self.assertEqual((begun.status_code, begun.json()["name"]), (201, "Trailer"))
            self.watched_until(Watch.objects.exclude(base=None).exists)
            instrument.held_at = FILLED
            self.watched_until(lambda: Load.objects.filter(state="open").exists())
            self.assertEqual(Watch.objects.get().held_by, "one")
            self.assertIsNotNone(Watch.objects.get().base)
            # The process that held it is gone; nobody renews its hold.
            Watch.objects.update(held_until=timezone.now())
            self.watched_until(lambda: Load.objects.filter(state="stored").exists(), "two")
        self.assertEqual(Watch.objects.get().held_by, "two")
        load = Load.objects.get()
        self.assertEqual((load.state, load.how, load.operator), ("stored", "steady", "Technician"))
        self.assertAlmostEqual(load.mass or 0, 3900, delta=41)
        self.assertEqual(client.get(url).json()["watch"]["by"], "Technician")
        self.assertEqual(client.delete(f"{url}/watch").status_code, 204)
        self.assertIsNone(client.get(url).json()["watch"])

    def test_a_watch_that_another_process_holds_is_left_to_it_and_ends_with_whoever_let_it(self) -> None:
        watch = Watch.objects.create(channel=self.channel, link=self.link(1), by=self.plant.technician)
        with mock.patch.object(watching, "ME", "one"):
            self.assertEqual(set(watching._held()), {self.channel.id})
        with mock.patch.object(watching, "ME", "two"):
            self.assertEqual(watching._held(), {})
        Membership.objects.filter(person=self.plant.technician).delete()
        with mock.patch.object(watching, "ME", "one"):
            self.assertEqual(watching._held(), {})
        self.assertFalse(Watch.objects.filter(pk=watch.pk).exists())

    def test_one_instrument_keeps_a_log_at_a_time(self) -> None:
        client = Client()
        client.force_login(self.plant.technician)
        url = f"/api/systems/{self.cart.id}/loads/watch"
        first = self.link(1)
        second = Link.objects.create(organisation=self.plant.organisation, name="Other", host="127.0.0.1", address="127.0.0.1", port=2, changed_by=self.plant.lead)  # fmt: skip
        second.systems.add(self.cart)
        asked = [client.post(url, json.dumps({"link": str(one)}), content_type="application/json").status_code for one in (first.id, first.id, second.id, uuid.uuid4())]  # fmt: skip
        self.assertEqual(asked, [201, 201, 409, 404])


class WhoMayListen(EmptiedTestCase):
    def test_who_was_removed_or_signed_out_hears_no_more_within_seconds(self) -> None:
        plant = Plant("Gannet Ness")

        def listens(person: Person) -> Listener:
            client = Client()
            client.force_login(person)
            return Listener(client.session.session_key or "", person.pk, plant.organisation.id)

        removed, stays = listens(plant.lead), listens(plant.technician)
        everywhere = listens(plant.person("second@gannetness.example", "technician"))

        async def run() -> float:
            with listening_as(removed), listening_as(stays), listening_as(everywhere):
                await asyncio.sleep(0.3)
                self.assertTrue(removed.may and stays.may and everywhere.may)
                await sync_to_async(done, thread_sensitive=False)()
                began = time.monotonic()
                while (removed.may or everywhere.may) and time.monotonic() - began < 10:
                    await asyncio.sleep(0.05)
                return time.monotonic() - began

        def done() -> None:
            Membership.objects.filter(person=plant.lead).delete()
            Person.objects.get(pk=everywhere.person).sign_out_everywhere()
            given_back()

        with mock.patch("beacon.people.still.EVERY", 0.1):
            seconds = asyncio.run(run())
        self.assertLess(seconds, 5)
        self.assertEqual((removed.may, stays.may, everywhere.may), (False, True, False))
