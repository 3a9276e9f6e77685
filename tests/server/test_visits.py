"""Visits of several methods, half-entered and provisional systems, events, cells, histories, CSV, sums."""

import io
import json
from typing import Any

from django.utils import timezone
from openpyxl import load_workbook

from beacon.bench.models import Job
from beacon.plant.models import Channel, Event, System
from beacon.records.models import Record
from tests.server.plant import AGREEING, PlantTestCase, enter, runs
from tests.server.test_closing import COMPLETE, IN_ORDER

PLATFORM = {
    "capacity": "1500 kg",
    "division": "0.5 kg",
    "cell_capacity": "1000 kg",
    "cell_count": 4,
    "cell_sensitivity": "2 mV/V",
}
ZERO = {"zero/inputs.revolution_time": "30 s"}


class VisitTestCase(PlantTestCase):
    def visit(self, system: System | None = None, **more: str) -> dict[str, Any]:
        body = {"system": str((system or self.plant.system).id), "method": "visit"} | more
        answer = self.send("/api/jobs", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        return dict(answer.json())

    def part(self, view: dict[str, Any], key: str) -> dict[str, Any]:
        return next(part for part in view["parts"] if part["key"] == key)

    def close(self, job_id: str, **asked: str) -> Any:
        return self.send(f"/api/jobs/{job_id}/close", COMPLETE | asked)

    def job(self, view: dict[str, Any]) -> Job:
        return Job.objects.get(id=view["id"])


class BeltVisits(VisitTestCase):
    def idle(self, *changes: float, part: str = "zero") -> dict[str, str]:
        return {f"{part}/idle.r{n}.value": f"{kg} kg" for n, kg in enumerate(changes, 1)}

    def test_a_zero_done_in_the_visit_counts_for_the_methods_after_it(self) -> None:
        job = self.job(self.visit())
        before = self.send_entries(job, runs(AGREEING))["job"]
        self.assertEqual(self.part(before, "")["assessment"]["reasons"][0]["code"], "zero-first")
        after = self.send_entries(job, ZERO | self.idle(0.5, 0.6))["job"]
        self.assertEqual(self.part(after, "zero")["assessment"]["call"], "leave")
        self.assertEqual(self.part(after, "")["assessment"]["call"], "adjust")

    def test_a_zero_that_was_off_counts_once_it_is_stored(self) -> None:
        job = self.job(self.visit())
        off = self.send_entries(job, ZERO | self.idle(6, 6.2) | runs(AGREEING))["job"]
        self.assertEqual(self.part(off, "")["assessment"]["call"], "not-ready")
        stored = self.send_entries(job, {"zero/tick.new-zero.stored": "yes"})["job"]
        self.assertEqual(self.part(stored, "")["assessment"]["call"], "adjust")

    def test_a_zero_with_the_carrier_in_and_a_part_not_finished_are_loose_ends(self) -> None:
        job = self.job(self.visit())
        texts = {"weights/inputs.carrier_zeroed": "yes", "weights/inputs.test_mass": "60 kg"} | runs(AGREEING)
        view = self.send_entries(job, texts)["job"]
        said = [end["text"] for end in view["loose_ends"]]
        self.assertTrue(any("without, or production reads light" in text for text in said), said)
        self.assertTrue(any(text.startswith("Test weights was begun and is not finished. ") for text in said), said)

    def test_weights_alone_close_as_a_verification_with_the_factor_untouched(self) -> None:
        job = self.job(self.visit())
        weights = {
            "weights/inputs.weight_kind": "hung", "weights/inputs.test_mass": "60 kg", "weights/inputs.revolutions": "3",
            "weights/inputs.indicated_rate": "480.5 t/h",
        }  # fmt: skip
        view = self.send_entries(job, ZERO | self.idle(0.5, 0.6) | weights)["job"]
        self.assertEqual(self.part(view, "weights")["assessment"]["reasons"][0]["code"], "verified")
        closed = self.close(view["id"]).json()
        self.assertEqual(closed["closing"]["words"], "verified, left as found")
        record = Record.objects.get(job_id=view["id"])
        self.assertEqual(record.job.summary["factor_after"], "1.1420")
        content = json.loads(record.content)
        self.assertEqual([part["part"] for part in content["visit"]], ["zero", "weights"])

    def test_the_zero_found_is_handed_on_and_expected_next_time(self) -> None:
        for number in range(5):
            job = self.job(self.visit())
            texts = (
                ZERO | self.idle(0.5, 0.6) | runs(IN_ORDER) | {"zero/inputs.new_zero": f"{40 + number * 0.2:.1f} kg"}
            )
            self.send_entries(job, texts)
            self.assertEqual(self.close(str(job.id)).status_code, 200)
        self.assertEqual(self.plant.system.channels.get().zero, "40.8 kg")
        view = self.visit()
        self.assertEqual(len(view["rows"]["zero/history"]), 5)
        found = self.send_entries(self.job(view), ZERO | self.idle(0.5, 0.6) | {"zero/inputs.new_zero": "47 kg"})["job"]
        self.assertEqual(self.part(found, "zero")["assessment"]["call"], "find-fault")

    def test_a_changed_length_makes_zero_and_span_stale(self) -> None:
        self.plant.system.plates |= {"belt_length": "60 m"}
        self.plant.system.save()
        job = self.plant.job("belt-length")
        times = {f"revolution_times.r{n}.value": f"{s} s" for n, s in enumerate((30.8, 30.9, 30.85), 1)}
        enter(job, self.plant.technician, times | {"inputs.speed": "2 m/s"})
        self.assertEqual(self.close(str(job.id)).status_code, 200)
        row = self.client.get("/api/round").json()["systems"][0]
        self.assertEqual((row["state"], row["stale"]), ("stale", ["Zero", "Test weights", "Material test"]))
        again = self.job(self.visit())
        self.send_entries(again, ZERO | self.idle(0.5, 0.6) | runs(IN_ORDER))
        self.assertEqual(self.close(str(again.id)).status_code, 200)
        self.assertEqual(self.client.get("/api/round").json()["systems"][0]["stale"], ["Test weights"])


class StandingSystems(VisitTestCase):
    def platform(self) -> System:
        return self.plant.add_system("Platform", "platform", "vessel", PLATFORM)

    def test_a_platform_visit_is_zero_span_and_corners(self) -> None:
        view = self.visit(self.platform())
        self.assertEqual(
            [part["method"] for part in view["parts"]],
            ["set-up-sheet", "data-sheet-span", "zero-span", "substitution-test", "corner-test"],
        )
        job = self.job(view)
        texts = {"inputs.test_load": "400 kg", "passes.p1.zero": "0 kg", "passes.p1.span": "402 kg"}
        adjusting = self.send_entries(job, texts)["job"]
        self.assertEqual(self.part(adjusting, "")["assessment"]["call"], "adjust")
        done = self.send_entries(job, {"passes.p2.zero": "0 kg", "passes.p2.span": "400 kg"})["job"]
        self.assertEqual(self.part(done, "")["assessment"]["reasons"][0]["code"], "holds-after-adjustment")
        # After a change of span every stored tare is stale, until it is ticked.
        self.assertEqual([end["key"] for end in done["loose_ends"]], ["loose.tares"])
        self.send_entries(job, {"loose.tares": "done"})
        self.assertEqual(self.close(view["id"]).status_code, 200)
        summary = Job.objects.get(id=view["id"]).summary
        self.assertEqual((summary["error_found"], summary["error_left"]), (0.5, 0.0))

    def test_test_weights_bring_their_mass_and_uncertainty(self) -> None:
        lead = self.signed_in(self.plant.lead)
        weights = {"kind": "weights", "name": "W-20", "nominal": "400 kg", "uncertainty": "20 g"}
        added = self.send("/api/references", weights, lead).json()
        job = self.job(self.visit(self.platform()))
        fields = self.send_entries(job, {"references.r1.id": added["id"]})["job"]["fields"]
        self.assertEqual(
            (fields["inputs.test_load"]["text"], fields["inputs.test_load_uncertainty"]["text"]), ("400 kg", "20 g")
        )

    def test_a_data_sheet_span_is_provisional_until_a_known_load(self) -> None:
        silo = self.plant.add_system(
            "Silo", "vessel", "vessel-fill", PLATFORM | {"live_capacity": "1.2 t", "dead_load": "0.4 t"}
        )
        job = self.plant.job("data-sheet-span", silo)
        self.assertEqual(self.close(str(job.id)).status_code, 200)
        self.assertEqual(self.state(silo), "provisional")
        check = self.plant.job("cell-check", silo)
        cells = {"cells.a.capacity": "1000 kg", "cells.a.sensitivity": "2 mV/V"}
        enter(check, self.plant.technician, cells | {"inputs.cell_count": "1", "inputs.live_capacity": "0.5 t"})
        self.assertEqual(self.close(str(check.id)).status_code, 200)
        self.assertEqual(self.state(silo), "provisional")
        fill = self.plant.job("known-load", silo)
        run = {"runs.r1.reference": "900 kg", "runs.r1.indicated": "900.5 kg"}
        enter(fill, self.plant.technician, run)
        # A weighbridge of 20 kg proves little of 900 kg: it is left alone, and stays provisional.
        self.assertEqual(self.close(str(fill.id)).status_code, 200)
        self.assertEqual(self.state(silo), "provisional")
        again = self.plant.job("known-load", silo)
        enter(again, self.plant.technician, run | {"inputs.reference_division": "0.2 kg"})
        self.assertEqual(self.close(str(again.id)).status_code, 200)
        self.assertEqual(self.state(silo), "in-order")

    def test_a_small_weight_shows_it_up_to_there_in_words_on_the_round_and_on_paper(self) -> None:
        platform = self.platform()
        job = self.plant.job("zero-span", platform)
        passes = {"passes.p1.zero": "0 kg", "passes.p1.span": "40 kg"}
        enter(job, self.plant.technician, passes | {"inputs.test_load": "40 kg"})
        self.assertEqual(self.close(str(job.id)).status_code, 200)
        said = "in order, shown up to 40 kg of 1500 kg"
        row = next(one for one in self.client.get("/api/round").json()["systems"] if one["id"] == str(platform.id))
        self.assertEqual((row["state"], row["state_words"]), ("in-part", said))
        record = Job.objects.get(id=job.id).record
        self.assertIn(said, json.loads(record.content)["closing"]["words"])
        # What an event made stale is not taken off by it.
        system = System.objects.get(id=platform.id)
        Event.objects.create(system=system, kind="cell", who=self.plant.lead, stale=["zero-span"], at=timezone.now())
        small = self.plant.job("zero-span", platform)
        enter(small, self.plant.technician, passes | {"inputs.test_load": "40 kg"})
        self.assertEqual(self.close(str(small.id)).status_code, 200)
        self.assertEqual(self.state(platform), "stale")

    def test_a_span_captured_before_it_was_read_was_never_found(self) -> None:
        platform = self.platform()
        job = self.plant.job("zero-span", platform)
        texts = {"passes.p1.zero": "0 kg", "passes.p1.span": "400 kg", "passes.p1.taken": "both", "inputs.test_load": "400 kg"}  # fmt: skip
        enter(job, self.plant.technician, texts | {"loose.tares": "done"})
        self.assertEqual(self.close(str(job.id)).status_code, 200)
        closed = Job.objects.get(id=job.id)
        self.assertEqual((closed.summary["error_found"], closed.summary["unread"]), (None, True))
        self.assertIn("not read before it was set", closed.closing["words"])

    def state(self, system: System) -> str:
        rows = self.client.get("/api/round").json()["systems"]
        return str(next(row["state"] for row in rows if row["id"] == str(system.id)))

    def test_half_entered_shows_wherever_the_system_appears(self) -> None:
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job", "read_back": "1.1260"} | runs(AGREEING))
        self.assertEqual(self.state(self.plant.system), "not-valid")

    def test_a_correction_comes_in_the_form_that_the_instrument_takes(self) -> None:
        self.plant.system.correction = "percent"
        self.plant.system.save()
        job = self.plant.job()
        answer = self.send_entries(job, {"inputs.zero_done": "job"} | runs(AGREEING))["job"]
        key_in = self.part(answer, "")["assessment"]["key_in"]
        self.assertEqual((key_in["form"], key_in["figure"]), ("Key in a change of", "−1.40 %"))

    def test_each_pad_is_a_channel(self) -> None:
        pads = self.plant.add_system("Pads", "pads", "vessel", {"capacity": "10 t", "division": "20 kg"})
        right = Channel.objects.create(system=pads, name="right", place=1)
        view = self.visit(pads, channel=str(right.id))
        self.assertEqual(view["system"]["channel"], "right")

    def test_the_certificate_of_every_method_can_be_printed(self) -> None:
        view = self.visit(self.platform())
        texts = {"inputs.test_load": "400 kg", "passes.p1.zero": "0 kg", "passes.p1.span": "400 kg"}
        corners = {f"corners/positions.c{n}.indicated": "400 kg" for n in range(4)} | {
            "corners/inputs.test_load": "400 kg"
        }
        self.send_entries(self.job(view), texts | corners)
        self.close(view["id"])
        record = Record.objects.get(job_id=view["id"])
        answer = self.client.get(f"/api/records/{record.id}/certificate.pdf")
        self.assertTrue(answer.content.startswith(b"%PDF"))


class EventsAndCells(VisitTestCase):
    def test_an_event_asks_which_methods_it_makes_stale_and_puts_them_on_the_round(self) -> None:
        path = f"/api/systems/{self.plant.system.id}"
        kinds = {row["kind"]: row for row in self.client.get(f"{path}/event-kinds").json()}
        self.assertEqual(kinds["idler"]["stale"], ["belt-zero", "belt-test-weight", "belt-material-test"])
        self.assertNotIn("place", kinds)
        self.plant.system.state = "in-order"
        self.plant.system.save()
        self.assertEqual(self.send(f"{path}/events", {"kind": "idler", "note": "middle one"}).status_code, 201)
        row = self.client.get("/api/round").json()["systems"][0]
        self.assertEqual(row["why"], "Idler changed: zero, test weights to do again")
        for wrong in ({"kind": "ghost"}, {"kind": "other"}, {"kind": "idler", "stale": ["zero-span"]}):
            self.assertEqual(self.send(f"{path}/events", wrong).status_code, 422)

    def test_a_cell_replaced_stays_in_the_history_and_is_an_event(self) -> None:
        path = f"/api/systems/{self.plant.system.id}/cells"
        there = str(self.plant.goes_far_away())
        old = self.send(path, {"label": "left", "capacity": "500", "sensitivity": "2", "serial": "A1"}).json()
        self.assertEqual((old["capacity"], old["sensitivity"]), ("500 kg", "2 mV/V"))
        self.assertEqual(
            self.send(path, {"instead_of": old["id"], "capacity": "500 kg"}).json()["errors"][0]["path"], "why"
        )
        self.assertEqual(self.send(path, {"label": "x", "capacity": "heavy"}).status_code, 422)
        new = self.send(path, {"instead_of": old["id"], "capacity": "500 kg", "why": "dead", "serial": "A2"}).json()
        cells = self.client.get(path).json()
        self.assertEqual(
            [(cell["serial"], bool(cell["removed"])) for cell in cells if cell["label"] == "left"],
            [("A2", False), ("A1", True)],
        )
        self.assertEqual(
            (new["fitted"], next(one["removed"] for one in cells if one["serial"] == "A1")), (there, there)
        )
        self.assertEqual(new["place"], old["place"])
        self.assertEqual(Event.objects.get().kind, "cell")

    def test_the_site_s_own_settings_stand_on_the_set_up_sheet(self) -> None:
        lead = self.signed_in(self.plant.lead)
        kind = {"name": "Grey panel", "fields": [{"title": "Display code", "digits": "unit | filter"}]}
        self.assertEqual(self.send("/api/instruments", kind).status_code, 404)
        added = self.send("/api/instruments", kind, lead).json()
        self.assertEqual(self.send("/api/instruments", kind, lead).status_code, 422)
        self.send(f"/api/systems/{self.plant.system.id}/record", {"instrument": added["id"]}, method="patch")
        job = self.plant.job("set-up-sheet", System.objects.get(pk=self.plant.system.pk))
        view = self.client.get(f"/api/jobs/{job.id}").json()
        self.assertEqual(view["fields"]["settings.s1.digits"]["text"], "unit | filter")


class Histories(VisitTestCase):
    def history(self) -> dict[str, Any]:
        channel = self.plant.system.channels.get()
        return dict(self.client.get(f"/api/channels/{channel.id}/history").json())

    def test_points_and_tables_of_the_closed_jobs(self) -> None:
        for loads in (IN_ORDER, IN_ORDER):
            job = self.plant.job()
            enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(loads))
            self.close(str(job.id))
        history = self.history()
        self.assertEqual(len(history["points"]), 2)
        self.assertAlmostEqual(history["points"][0]["error_found"], 0.0474, 3)
        self.assertEqual(
            (history["tolerance"], history["intervals"], history["drift"]), ({"low": -0.5, "high": 0.5}, 1, None)
        )
        self.assertEqual(history["faults"], [])
        channel = self.plant.system.channels.get()
        table = self.client.get(f"/api/channels/{channel.id}/history.csv").content.decode("utf-8-sig")
        self.assertEqual(len(table.splitlines()), 3)
        book = load_workbook(io.BytesIO(self.client.get(f"/api/channels/{channel.id}/history.xlsx").content))
        self.assertEqual(book.active.max_row, 3)


class RowsFromCsv(VisitTestCase):
    def bring(self, job: Job, text: str, name: str = "runs") -> Any:
        return self.client.post(f"/api/jobs/{job.id}/rows?list={name}", text.encode(), content_type="text/csv")

    def test_runs_come_in_with_units_from_the_header(self) -> None:
        job = self.plant.job()
        answer = self.bring(
            job, "Run;Gross (t);Tare, t;Shown (t);Reason\n1;34,10;12,76;21,66;\n2;32.61;12.74;20.13;wet\n"
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        rows = self.client.get(f"/api/jobs/{job.id}").json()["rows"]["runs"]
        self.assertEqual([row["net"] for row in rows], ["21.34 t", "19.87 t"])
        self.assertEqual([row["in_set"] for row in rows], [True, False])

    def test_refused_rows_are_listed_by_line_and_nothing_is_half_imported(self) -> None:
        job = self.plant.job()
        answer = self.bring(job, "reference (t),indicated (t)\n21.34,21.66\n20 m,20.1\n19.8,lots\n")
        self.assertEqual(answer.status_code, 422)
        errors = answer.json()["errors"]
        self.assertEqual([error["path"] for error in errors], ["line 3", "line 4"])
        self.assertEqual(self.client.get(f"/api/jobs/{job.id}").json()["rows"]["runs"], [])
        self.assertEqual(self.bring(job, "colour\ngrey\n").json()["errors"][0]["path"], "header.colour")
        self.assertEqual(self.bring(job, "reference\n").status_code, 422)

    def test_points_of_counts_come_in_too(self) -> None:
        bench = self.plant.add_system("Bench", "bench", "vessel", {"capacity": "20 kg"})
        job = self.plant.job("span-points", bench)
        answer = self.bring(job, "load (kg),counts\n0,8000\n10,270000\n", "points")
        self.assertEqual(answer.json()["changes"]["parts"][0]["assessment"]["call"], "leave")


class SumsOverHttp(PlantTestCase):
    def test_a_sum_reads_what_was_typed_and_says_what_it_cannot_read(self) -> None:
        typed = {
            "test_mass": {"text": "60", "unit": "kg"},
            "idler_spacing": {"text": "1,2 m"},
            "speed": {"text": "fast", "unit": "m/s"},
        }
        answer = self.send("/api/sums/weight-rate", typed).json()
        self.assertEqual(answer["lines"][0]["figure"], "50 kg/m")
        self.assertIn("speed", answer["problems"])
        self.assertEqual(self.send("/api/sums/ghost", {}).status_code, 404)

    def test_a_sum_is_carried_into_a_job(self) -> None:
        body = {"system": str(self.plant.system.id), "method": "belt-test-weight", "inputs": {"test_mass": "60 kg"}}
        fields = self.send("/api/jobs", body).json()["fields"]
        self.assertEqual(fields["inputs.test_mass"]["text"], "60 kg")
