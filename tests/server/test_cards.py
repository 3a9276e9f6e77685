"""The card for the cab, read back as text."""

import io

from pypdf import PdfReader

from beacon.plant.models import Channel, System
from tests.server.plant import PlantTestCase, enter


class Cards(PlantTestCase):
    def text(self, system: System) -> str:
        channel = Channel.objects.get(system=system)
        answer = self.signed_in(self.plant.technician).get(f"/api/channels/{channel.id}/card.pdf")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
        pages = PdfReader(io.BytesIO(answer.content)).pages
        self.assertEqual(len(pages), 1)
        return " ".join(pages[0].extract_text().split())

    def test_each_kind_that_has_one_says_its_lines_on_one_side(self) -> None:
        for kind, profile in (("axle", "axle"), ("lift-arm", "lift-arm"), ("lift", "lift-arm"), ("cart", "load-cart")):
            system = self.plant.add_system(f"The {kind}", kind, profile, {})
            said = self.text(system)
            for line in system.machine.card:
                self.assertIn(line, said, kind)
            self.assertIn(f"The {kind}", said)

    def test_a_lorry_that_is_half_entered_is_not_to_be_weighed_with(self) -> None:
        lorry = self.plant.add_system("Lorry", "axle", "axle", {})
        self.assertNotIn("Do not weigh", self.text(lorry))
        enter(self.plant.job("axle-two-load", lorry), self.plant.technician, {"groups.g1.empty_ticket": "6 t"})
        self.assertIn("Do not weigh with it: half entered: not valid", self.text(lorry))

    def test_a_machine_without_one_answers_that_there_is_none(self) -> None:
        channel = self.plant.system.channels.get()
        self.assertEqual(
            self.signed_in(self.plant.technician).get(f"/api/channels/{channel.id}/card.pdf").status_code, 404
        )
