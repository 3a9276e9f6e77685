"""Tanks, materials and gates on record: what a job begins with, what it hands back, and the card that holds it."""

import io
from typing import Any

from pypdf import PdfReader

from beacon.bench.models import Job
from beacon.plant.models import Channel, PlateChange, System
from tests.server.plant import PlantTestCase, enter, looked_over
from tests.server.test_closing import COMPLETE


class Metering(PlantTestCase):
    def machine(self, kind: str, figures: dict[str, Any], **plates: Any) -> System:
        system = self.plant.add_system(f"The {kind}", kind, "metered-feed", plates)
        System.objects.filter(pk=system.pk).update(reference=None)
        Channel.objects.filter(system=system).update(figures=figures, factor="", name="grit, small gate")
        return system

    def fields(self, job: Job) -> dict[str, str]:
        view = self.client.get(f"/api/jobs/{job.id}").json()
        return {path: field["text"] for path, field in view["fields"].items()}

    def close(self, job: Job) -> None:
        looked_over(job, self.plant.technician)
        answer = self.send(f"/api/jobs/{job.id}/close", COMPLETE)
        self.assertEqual(answer.status_code, 200, answer.content)

    def assessment(self, job: Job) -> dict[str, Any]:
        return dict(self.client.get(f"/api/jobs/{job.id}").json()["parts"][0]["assessment"])

    def test_a_tank_begins_with_its_own_value_and_keeps_what_was_keyed_in(self) -> None:
        drill = self.machine("meter", {"old_value": "0.1 kg/rev", "roller": 3}, reference_division="5 g")
        job = self.plant.job("meter-catch", drill)
        known = self.fields(job)
        self.assertEqual((known["inputs.old_value"], known["inputs.tank"], known["inputs.reference_division"]), ("0.1 kg/rev", "grit, small gate", "5 g"))  # fmt: skip
        texts = {"inputs.per": "revolution"}
        for row in ("a", "b"):
            texts |= {f"runs.{row}.gross": "2.6 kg", f"runs.{row}.tare": "0.5 kg", f"runs.{row}.amount": "20"}
        enter(job, self.plant.technician, texts)
        self.assertEqual(self.assessment(job)["call"], "adjust")
        enter(job, self.plant.technician, {"inputs.keyed_value": "0.105 kg/rev"})
        self.close(job)
        channel = drill.channels.get()
        self.assertEqual(channel.figures, {"old_value": "0.105 kg/rev", "roller": 3})
        change = PlateChange.objects.get(system=drill)
        self.assertEqual((change.before, change.after), ("0.1 kg/rev", "0.105 kg/rev"))
        again = self.plant.job("meter-catch", drill)
        self.assertEqual(self.fields(again)["inputs.old_value"], "0.105 kg/rev")

    def test_two_tanks_keep_their_values_apart(self) -> None:
        drill = self.machine("meter", {"old_value": "0.1 kg/rev"})
        rear = Channel.objects.create(system=drill, name="rear", place=1, figures={"old_value": "0.3 kg/rev"})
        body = {"system": str(drill.id), "channel": str(rear.id), "method": "meter-catch"}
        opened = self.send("/api/jobs", body).json()
        self.assertEqual(opened["fields"]["inputs.old_value"]["text"], "0.3 kg/rev")

    def test_a_constant_that_closed_is_handed_on_and_one_that_did_not_is_not(self) -> None:
        spreader = self.machine("spreader", {"constant": 8000})
        job = self.plant.job("constant-catch", spreader)
        enter(job, self.plant.technician, {"runs.a.constant": "8000", "runs.a.controller": "105 kg", "runs.a.net": "100 kg"})  # fmt: skip
        self.assertEqual(self.assessment(job)["headline"], "Set 8400")
        enter(job, self.plant.technician, {"runs.b.constant": "8400", "runs.b.controller": "100.3 kg", "runs.b.net": "100 kg"})  # fmt: skip
        self.close(job)
        self.assertEqual(spreader.channels.get().figures["constant"], "8400")
        other = self.plant.job("constant-catch", spreader)
        enter(other, self.plant.technician, {"runs.a.constant": "8400", "runs.a.controller": "104 kg", "runs.a.net": "100 kg"})  # fmt: skip
        answer = self.send(f"/api/jobs/{other.id}/close", {"signed": "Ines", "outcome": "limited", "reason": "rain"})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(spreader.channels.get().figures["constant"], "8400")

    def chart(self, spreader: System) -> Job:
        job = self.plant.job("rate-chart", spreader)
        texts = {f"speeds.s{n}.value": f"{kmh} km/h" for n, kmh in enumerate((20, 30), 1)}
        texts |= {f"gate_readings.g{n}.value": "42 mm" for n in (1, 2)}
        for n, turns in ((1, "6"), (2, "11")):
            texts |= {f"settings.t{n}.setting": str(n), f"settings.t{n}.revolutions": turns, f"settings.t{n}.seconds": "60"}  # fmt: skip
        enter(job, self.plant.technician, texts | {"catches.c.revolutions": "10", "catches.c.net": "16 kg"})
        return job

    def card(self, spreader: System) -> str:
        answer = self.client.get(f"/api/channels/{spreader.channels.get().id}/card.pdf")
        pages = PdfReader(io.BytesIO(answer.content)).pages
        self.assertEqual(len(pages), 1)
        return " ".join(pages[0].extract_text().split())

    def test_a_chart_stands_on_the_card_of_its_vehicle_and_material(self) -> None:
        gritter = self.machine("free-spreader", {"target_low": "30 kg/km", "target_high": "40 kg/km"})
        self.assertNotIn("setting 20 km/h", self.card(gritter))
        self.close(self.chart(gritter))
        text = self.card(gritter)
        # 11 turns of 1.6 kg a minute at 30 km/h are 35.2 kg/km.
        for words in ("20 km/h 30 km/h", "35.2", "42 mm gate", "30 kg/km", "grit, small gate"):
            self.assertIn(words, text)
        figures = gritter.channels.get().figures
        self.assertEqual((figures["gate_opening"], figures["setting"], figures["speed"]), ("42 mm", "2", "30 km/h"))

    def test_a_card_while_a_new_gate_is_being_tried_says_not_to_use_it(self) -> None:
        gritter = self.machine("free-spreader", {"target_low": "30 kg/km", "target_high": "40 kg/km"})
        job = self.chart(gritter)
        enter(job, self.plant.technician, {"earlier.e.gate_opening": "50 mm", "earlier.e.mass_per_revolution": "2.2 kg/rev", "catches.c.net": "24 kg"})  # fmt: skip
        self.assertIn("half entered", self.card(gritter))

    def test_the_certificate_of_a_chart_can_be_printed(self) -> None:
        gritter = self.machine("free-spreader", {"target_low": "30 kg/km", "target_high": "40 kg/km"})
        job = self.chart(gritter)
        self.close(job)
        record = self.client.get("/api/log").json()["rows"][0]["record"]
        text = PdfReader(io.BytesIO(self.client.get(f"/api/records/{record}/certificate.pdf").content)).pages[0].extract_text()  # fmt: skip
        self.assertIn("inside", text)

    def test_a_screw_under_a_vessel_is_caught_by_its_scale(self) -> None:
        screw = self.machine("meter", {"old_value": "0.45 kg/rev"})
        job = self.plant.job("meter-catch", screw)
        texts = {"inputs.per": "revolution"}
        for row, start, end in (("a", "18.640 t", "17.290 t"), ("b", "17.290 t", "15.935 t")):
            texts |= {f"runs.{row}.start_mass": start, f"runs.{row}.end_mass": end, f"runs.{row}.amount": "3000"}
        enter(job, self.plant.technician, texts)
        self.assertEqual(self.assessment(job)["call"], "leave")
        self.close(job)
