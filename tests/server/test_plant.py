"""The round, a system's record with its trail, references and limits."""

import datetime

from tests.server.plant import PlantTestCase, today


class Round(PlantTestCase):
    def test_an_open_job_stands_on_the_round(self) -> None:
        job = self.plant.job()
        row = self.client.get("/api/round").json()["systems"][0]
        self.assertEqual(row["open_jobs"][0]["id"], str(job.id))
        self.assertEqual(row["why"], "Material test under way")

    def test_what_to_bring_is_the_usual_reference_and_enough_to_weigh(self) -> None:
        row = self.client.get("/api/round").json()["systems"][0]
        # 2·20·√(2/12)/(0.005/3) = 9798 kg, up to whole 20 kg: 9.8 t.
        self.assertEqual((row["bring"]["reference"], row["bring"]["least"]), ("Weighbridge", "at least 9.8 t a run"))

    def test_an_overdue_system_says_so(self) -> None:
        self.plant.system.due = today() - datetime.timedelta(days=3)
        self.plant.system.state = "in-order"
        self.plant.system.save()
        row = self.client.get("/api/round").json()["systems"][0]
        self.assertTrue(row["is_due"])
        self.assertIn("overdue", row["why"])


class Systems(PlantTestCase):
    def change(self, **given: object) -> object:
        return self.send(f"/api/systems/{self.plant.system.id}/record", given, method="patch")

    def test_a_plate_is_changed_with_a_trail(self) -> None:
        answer = self.change(plates={"idler_spacing": "1,2"}, notes="hold both keys").json()  # type: ignore[attr-defined]
        self.assertEqual(answer["plates"]["idler_spacing"], "1.2 m")
        changes = {change["field"]: (change["before"], change["after"]) for change in answer["changes"]}
        self.assertEqual(changes["idler_spacing"], ("0.9 m", "1.2 m"))
        self.assertEqual(changes["notes"], ("", "hold both keys"))

    def test_what_cannot_be_read_is_named_and_nothing_is_changed(self) -> None:
        answer = self.change(plates={"idler_spacing": "wide", "colour": "grey"}, factor="-1", name="New")
        self.assertEqual(answer.status_code, 422)  # type: ignore[attr-defined]
        paths = {error["path"] for error in answer.json()["errors"]}  # type: ignore[attr-defined]
        self.assertEqual(paths, {"plates.idler_spacing", "plates.colour", "factor"})
        self.assertEqual(self.client.get(f"/api/systems/{self.plant.system.id}").json()["name"], "Conveyor")

    def test_a_technician_cannot_give_a_system_wider_limits(self) -> None:
        self.assertEqual(self.change(profile="belt-plain").status_code, 422)  # type: ignore[attr-defined]
        lead = self.signed_in(self.plant.lead)
        path = f"/api/systems/{self.plant.system.id}/record"
        self.assertEqual(self.send(path, {"profile": "belt-plain"}, lead, "patch").status_code, 200)

    def test_a_new_system_is_not_tested_yet_and_starts_with_a_first_calibration(self) -> None:
        body = {"site": str(self.plant.site.id), "name": "C9", "kind": "belt"}
        added = self.send("/api/systems", body).json()
        self.assertEqual(added["state"], "not-tested")
        self.assertEqual(self.send("/api/systems", body | {"kind": "kite", "name": " "}).status_code, 422)
        self.assertEqual(self.send("/api/systems", body | {"site": str(self.other.site.id)}).status_code, 404)


class ReferencesAndLimits(PlantTestCase):
    def test_only_a_lead_adds_a_reference_and_it_must_be_readable(self) -> None:
        body = {"name": "Hanging scale", "division": "20 g", "range": "50 kg"}
        self.assertEqual(self.send("/api/references", body).status_code, 404)
        lead = self.signed_in(self.plant.lead)
        self.assertEqual(self.send("/api/references", body, lead).status_code, 201)
        bad = self.send("/api/references", {"name": "x", "division": "20 m"}, lead)
        self.assertEqual(bad.json()["errors"][0]["path"], "division")
        without = self.send("/api/references", {"name": "x", "kind": "weights"}, lead)
        self.assertEqual(without.json()["errors"][0]["path"], "nominal")

    def test_a_lead_changes_limits_of_each_form_and_a_slip_is_refused(self) -> None:
        lead = self.signed_in(self.plant.lead)
        body = {"accept": {"smaller": ["1 %", "60 kg"]}, "repeat": "1 %", "minimum_runs": 2, "plausible": "10 %"}
        self.assertEqual(self.send("/api/profiles/belt-fine", body, method="put").status_code, 404)
        changed = self.send("/api/profiles/belt-fine", body, lead, "put").json()
        self.assertEqual(changed["accept_words"], "± 1 % or 60 kg, whichever is smaller")
        for accept in ("1", {"both": ["1 %", "2 %"]}, ["1 %"]):
            answer = self.send("/api/profiles/belt-fine", body | {"accept": accept}, lead, "put")
            self.assertEqual(answer.json()["errors"][0]["path"], "accept")
