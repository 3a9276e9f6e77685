"""Instruments on the line: where they may be, what a lead teaches, what comes in however badly it is sent, loads by themselves."""

import asyncio
import time
import uuid
from collections.abc import Callable
from ipaddress import ip_address
from typing import Any
from unittest.mock import patch

from django.test import SimpleTestCase, override_settings

from beacon.links.allow_list import NotAllowed, found_at
from beacon.links.hub import Feed, Where, listening
from beacon.links.models import Link
from beacon.links.streams import told
from beacon.people.still import Listener
from tests.server.on_the_line import on_the_line
from tests.server.plant import PlantTestCase
from wary.lines import Pattern
from wary.reading import Display, Taught

LINE = "[07] +    1000.0 KG OK"
POINTED = {"line": LINE, "figure": [10, 16], "unit": [17, 19], "steady": [20, 22], "steady_is": "OK"}


class Reach(SimpleTestCase):
    def test_an_address_on_an_allowed_network_is_kept_as_it_is(self) -> None:
        self.assertEqual(found_at("127.0.0.1", 4001), "127.0.0.1")
        with override_settings(INSTRUMENT_NETWORKS=["192.168.0.0/16"]):
            self.assertEqual(found_at("192.168.10.40", 23), "192.168.10.40")

    def test_any_other_address_is_out_of_reach(self) -> None:
        for host in ("8.8.8.8", "169.254.169.254", "::1", "0.0.0.0", "10.0.0.1", "255.255.255.255"):
            with self.subTest(host), self.assertRaises(NotAllowed) as raised:
                found_at(host, 4001)
            self.assertEqual(raised.exception.field, "host")

    def test_ports_of_services_and_of_the_database_are_not_read(self) -> None:
        from django.conf import settings

        for port in (22, 25, 80, 443, 0, 70_000, int(settings.DATABASES["default"]["PORT"])):
            with self.subTest(port), self.assertRaises(NotAllowed) as raised:
                found_at("127.0.0.1", port)
            self.assertEqual(raised.exception.field, "port")

    def test_a_name_is_looked_up_once_and_every_address_of_it_must_be_allowed(self) -> None:
        def answers(*addresses: str) -> list[Any]:
            return [(2, 1, 6, "", (address, 0)) for address in addresses]

        with patch("socket.getaddrinfo", return_value=answers("127.0.0.1")):
            self.assertEqual(found_at("hopper.scales.example", 4001), "127.0.0.1")
        with patch("socket.getaddrinfo", return_value=answers("127.0.0.1", "8.8.8.8")), self.assertRaises(NotAllowed):
            found_at("hopper.scales.example", 4001)
        with patch("socket.getaddrinfo", side_effect=OSError), self.assertRaisesRegex(NotAllowed, "Nothing is found"):
            found_at("nowhere.example", 4001)


class Registering(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.lead = self.signed_in(self.plant.lead)

    def register(self, **given: Any) -> Any:
        body = {"name": "Hopper display", "host": "127.0.0.1", "port": 4001, "systems": [str(self.plant.system.id)]}
        return self.send("/api/links", body | given, self.lead)

    def test_only_a_lead_registers_and_those_who_work_see_it_on_their_bench(self) -> None:
        body = {"name": "x", "host": "127.0.0.1", "port": 4001}
        self.assertEqual(self.send("/api/links", body).status_code, 404)
        kept = self.register().json()
        self.assertEqual((kept["address"], kept["systems"]), ("127.0.0.1", [str(self.plant.system.id)]))
        job = self.plant.job()
        (link,) = self.client.get(f"/api/jobs/{job.id}").json()["links"]
        self.assertEqual((link["name"], link["way"]), ("Hopper display", "network"))
        self.send(f"/api/links/{kept['id']}", body | {"off": True}, self.lead, "put")
        self.assertEqual(self.client.get(f"/api/jobs/{job.id}").json()["links"], [])

    def test_what_cannot_be_kept_is_said_by_its_field(self) -> None:
        other = str(self.other.system.id)
        for given, path in (
            ({"name": " "}, "name"), ({"host": "8.8.8.8"}, "host"), ({"port": 80}, "port"), ({"most": "much"}, "most"),
            ({"systems": [other]}, "systems"), ({"host": ""}, "host"),
        ):  # fmt: skip
            answer = self.register(**given)
            self.assertEqual((answer.status_code, answer.json()["errors"][0]["path"]), (422, path))
        self.assertEqual(self.register().status_code, 201)
        again = self.register()
        self.assertEqual(again.json()["errors"][0]["path"], "name")
        self.assertEqual(Link.objects.count(), 1)

    def test_an_address_is_looked_up_when_it_is_registered_and_never_again(self) -> None:
        with patch("beacon.links.allow_list._named", return_value={ip_address("127.0.0.1")}):
            kept = self.register(host="hopper.scales.example").json()
        with patch("beacon.links.allow_list._named", side_effect=AssertionError("asked again")):
            link = Link.objects.get(id=kept["id"])
            self.assertEqual((link.host, link.address), ("hopper.scales.example", "127.0.0.1"))
            self.assertEqual(self.lead.get("/api/links").json()[0]["address"], "127.0.0.1")

    def test_a_pattern_is_tried_before_it_is_kept(self) -> None:
        answer = self.send("/api/lines/tried", {"pattern": POINTED, "lines": [LINE, "[07] -      12.5 LB ..", "??"]})
        found = answer.json()
        self.assertEqual(found["faults"], [])
        self.assertEqual([one["read"] and one["read"]["value"] for one in found["tried"]], [1000.0, -12.5, None])
        self.assertIn({"start": 10, "end": 16, "text": "1000.0", "kind": "figure"}, found["tokens"])
        wrong = self.send("/api/lines/tried", {"pattern": POINTED | {"figure": [17, 19]}, "lines": [LINE]}).json()
        self.assertEqual(wrong["tried"], [])
        self.assertTrue(any("no figure" in one["text"] for one in wrong["faults"]))

    def test_a_lead_teaches_and_what_it_sent_then_is_noted(self) -> None:
        kept = self.register().json()
        url = f"/api/links/{kept['id']}/pattern"
        self.assertEqual(self.send(url, {"pattern": POINTED}, method="put").status_code, 404)
        taught = self.send(url, {"pattern": POINTED}, self.lead, "put").json()
        self.assertEqual((taught["unit"], taught["pattern"]["line"]), ("kg", LINE))
        wrong = self.send(url, {"pattern": POINTED | {"steady_is": ""}}, self.lead, "put")
        self.assertEqual(wrong.json()["errors"][0]["path"], "pattern.steady_is")
        plain = self.send(url, {"pattern": None, "lines": ["?", "weight=4 t steady"]}, self.lead, "put").json()
        self.assertEqual((plain["pattern"], plain["unit"]), (None, "t"))

    def test_lines_of_a_serial_port_are_read_by_the_same_patterns(self) -> None:
        kept = self.register(way="serial", name="Bench display", host="", port=0, baud=4800).json()
        self.assertEqual((kept["address"], kept["port"], kept["baud"]), (None, 0, 4800))
        self.send(f"/api/links/{kept['id']}/pattern", {"pattern": POINTED}, self.lead, "put")
        lines = [[0.0, "[07] +     999.0 KG .."], [0.4, LINE]]
        live = self.send(f"/api/links/{kept['id']}/read", {"lines": lines}).json()
        self.assertEqual(
            [(one["value"], one["steady"], one["raw"]) for one in live["readouts"]], [(1000.0, True, LINE)]
        )
        nothing = self.send(f"/api/links/{kept['id']}/read", {"lines": [[0, "??"]]}).json()
        self.assertIn("not understood", nothing["fault"])
        self.assertEqual(self.client.get(f"/api/links/{kept['id']}/live").status_code, 404)

    def test_readings_over_time_are_worked_out_by_the_server(self) -> None:
        readings = [["10.0", "kg", True], ["10.2", "kg", True], ["10.1", "kg", False]]
        found = self.send("/api/readings/gathered", {"readings": readings}).json()
        self.assertEqual((found["count"], found["capture"], found["moving"]), (3, "10.10", 1))
        mixed = self.send("/api/readings/gathered", {"readings": [["1", "kg", True], ["1", "lb", True]]})
        self.assertEqual((mixed.status_code, mixed.json()["errors"][0]["path"]), (422, "readings"))
        self.assertEqual(self.send("/api/readings/gathered", {"readings": [["1", "kg", True]] * 2001}).status_code, 422)

    def test_a_figure_that_is_watched_stands_or_runs_away(self) -> None:
        still = {"name": "weight", "readings": [[at, "20.0", "kg"] for at in range(60)]}
        creeps = {"name": "drive axle", "readings": [[at, f"{20 + at / 10:.1f}", "kg"] for at in range(60)]}
        found = self.send("/api/readings/watched", {"figures": [still, creeps]}).json()
        self.assertEqual([one["stands"] for one in found], [True, False])
        short = self.send("/api/readings/watched", {"figures": [still | {"readings": still["readings"][:9]}]})
        self.assertEqual((short.status_code, short.json()["errors"][0]["path"]), (422, "figures"))
        self.assertEqual(self.send("/api/readings/watched", {"figures": []}).status_code, 422)


class ReadingLines(SimpleTestCase):
    def test_the_latest_of_each_name_is_shown_and_forgotten_when_it_is_said_no_more(self) -> None:
        display = Display(Taught())
        display.take("weight=10 kg steady", 0)
        display.take("on the hitch=8 % steady", 0.1)
        display.take("weight=12 kg moving", 4)
        self.assertEqual([(one.title, one.text, one.steady) for one in display.live(4).readouts], [("weight", "12", False), ("on the hitch", "8", True)])  # fmt: skip
        self.assertEqual([one.title for one in display.live(6).readouts], ["weight"])

    def test_over_its_range_and_in_another_unit_than_it_was_taught(self) -> None:
        display = Display(Taught(unit="kg", most="1500 kg"))
        display.take("weight=1600 kg steady", 0)
        self.assertIn("over its range of 1500 kg", display.live(0).readouts[0].fault)
        display.take("weight=2000 lb steady", 1)
        (shown,) = display.live(1).readouts
        self.assertEqual((shown.fault, "when it was taught it sent kg" in shown.caution), ("", True))
        display.take("weight=over", 2)
        self.assertIn("over its range", display.live(2).readouts[0].fault)

    def test_a_line_that_is_not_understood_is_quoted_and_the_reading_before_it_fades(self) -> None:
        display = Display(Taught())
        display.take("weight=10 kg steady", 0)
        self.assertFalse(display.take("~~~", 1))
        live = display.live(1)
        self.assertIn("“~~~”", live.fault)
        self.assertEqual(len(live.readouts), 1)
        self.assertEqual(display.live(7).readouts, ())

    def test_no_more_names_are_kept_than_fit_a_bench(self) -> None:
        display = Display(Taught())
        for number in range(40):
            display.take(f"n{number}=1 kg steady", 0)
        self.assertEqual(len(display.live(0).readouts), 8)


def where(port: int, pattern: dict[str, Any] | None = None, most: str = "1500 kg") -> Where:
    return Where(str(uuid.uuid4()), "127.0.0.1", port, Taught.of(pattern, "kg", most))


async def waited(feed: Feed, enough: Callable[[Feed], bool], seconds: float = 8.0) -> bool:
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if enough(feed):
            return True
        await asyncio.sleep(0.05)
    return False


class OnTheLine(SimpleTestCase):
    """A stand-in instrument sends over TCP for real."""

    def listen(self, at: Where, enough: Callable[[Feed], bool]) -> Feed:
        """A feed, once it is as it should be."""

        async def run() -> Feed:
            async with listening(at) as feed:
                self.assertTrue(await waited(feed, enough), feed.live())
                return feed

        return asyncio.run(run())

    def test_readings_come_in_the_simple_format(self) -> None:
        with on_the_line() as (_, port):
            feed = self.listen(where(port), lambda feed: bool(feed.live().readouts))
        self.assertEqual(feed.lines[0].text, "weight=0.0 kg steady")

    def test_a_taught_pattern_reads_an_instrument_that_speaks_otherwise(self) -> None:
        with on_the_line(speech="columns") as (_, port):
            plain = self.listen(where(port), lambda feed: "not understood" in feed.live().fault)
            line = plain.lines[-1].text
            at = line.index("0.0")
            pattern = Pattern(line=line, figure=(at, at + 3), unit=(at + 4, at + 6), steady=(at + 7, at + 9), steady_is="OK")  # fmt: skip
            self.listen(where(port, pattern.model_dump()), lambda feed: any(one.steady for one in feed.live().readouts))

    def test_two_benches_share_one_connection(self) -> None:
        async def run(port: int) -> tuple[bool, int]:
            at = where(port)
            async with listening(at) as one, listening(at) as other:
                await waited(one, lambda feed: feed.turn > 2)
                return one is other, instrument.connections

        with on_the_line() as (instrument, port):
            self.assertEqual(asyncio.run(run(port)), (True, 1))

    def test_a_million_lines_a_second_leave_the_newest_and_time_for_others(self) -> None:
        async def run(port: int) -> float:
            async with listening(where(port)) as feed:
                self.assertTrue(await waited(feed, lambda feed: feed.turn > 60))
                self.assertTrue(feed.flooded)
                slowest = 0.0
                for _ in range(20):
                    began = time.monotonic()
                    await asyncio.sleep(0.01)
                    slowest = max(slowest, time.monotonic() - began)
                self.assertLessEqual(len(feed.lines), 20)
                self.assertTrue(feed.live().readouts)
                return slowest

        with on_the_line(trouble="flood") as (_, port):
            self.assertLess(asyncio.run(run(port)), 3.0)

    def test_nonsense_half_lines_and_silence_are_said_in_a_sentence(self) -> None:
        for trouble, words in (
            ("nonsense", "not understood"),
            ("half", "without the end of a line"),
            ("silent", "nothing was sent yet"),
            ("over", ""),
        ):
            with self.subTest(trouble), on_the_line(trouble=trouble) as (_, port):  # type: ignore[arg-type]

                def enough(feed: Feed, trouble: str = trouble, words: str = words) -> bool:
                    live = feed.live()
                    if trouble == "over":
                        return bool(live.readouts) and "over its range" in live.readouts[0].fault
                    return words in live.fault

                self.listen(where(port), enough)

    def test_it_comes_back_by_itself_and_a_change_of_unit_is_cautioned(self) -> None:
        async def run() -> None:
            with on_the_line() as (instrument, port):
                at = where(port)
                async with listening(at) as feed:
                    self.assertTrue(await waited(feed, lambda feed: bool(feed.live().readouts)))
                    instrument.trouble = "pounds"
                    self.assertTrue(await waited(feed, lambda feed: any(one.caution for one in feed.live().readouts)))

        asyncio.run(run())

    def test_what_is_not_there_is_said_and_tried_again(self) -> None:
        feed = self.listen(where(1), lambda feed: "cannot be reached" in feed.live().fault)
        self.assertIn("refuses the connection", feed.live().fault)

    @override_settings(INSTRUMENT_NETWORKS=["192.168.0.0/16"])
    def test_an_address_that_is_allowed_no_more_is_not_read(self) -> None:
        with on_the_line() as (instrument, port):
            self.listen(where(port), lambda feed: "on no network" in feed.live().fault)
            self.assertEqual(instrument.connections, 0)

    def test_a_stream_says_when_to_come_again_and_then_what_it_shows(self) -> None:
        async def run(port: int) -> list[bytes]:
            found = []
            stream = told(where(port), Listener("", 0, uuid.uuid4()))
            async for one in stream:
                found.append(one)
                if b'"readouts":[{' in one:
                    break
            await stream.aclose()  # type: ignore[attr-defined]
            return found

        with on_the_line() as (_, port):
            events = asyncio.run(run(port))
        self.assertEqual(events[0], b"retry: 500\n\n")
        self.assertIn(b'"raw":"weight=0.0 kg steady"', events[-1])


class Looking(PlantTestCase):
    def test_a_lead_looks_at_the_lines_that_come(self) -> None:
        lead = self.signed_in(self.plant.lead)
        with on_the_line(speech="columns") as (_, port):
            body = {"name": "Platform", "host": "127.0.0.1", "port": port}
            link = self.send("/api/links", body, lead).json()
            came = lead.get(f"/api/links/{link['id']}/lines").json()
            self.assertTrue(came["lines"][0].startswith("[07] +"))
            self.assertEqual(self.client.get(f"/api/links/{link['id']}/lines").status_code, 404)
        gone = lead.get(f"/api/links/{link['id']}/lines").json()
        self.assertEqual((gone["lines"], "cannot be reached" in gone["fault"]), ([], True))
