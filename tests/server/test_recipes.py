"""Recipes: kept per machine with a trail, copied to the next free number, carried into a job and back once it is tuned."""

from typing import Any

from beacon.bench.models import Job
from beacon.plant.models import Channel, PlateChange, System
from tests.server.plant import PlantTestCase, enter, looked_over
from tests.server.test_closing import COMPLETE

FIGURES = {"number": 1, "target": "1000 g", "over": "10 g", "under": "10 g", "fast": "300 g", "medium": "100 g", "fine": "20 g"}  # fmt: skip


class Recipes(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        plates = {"division": "1 g", "bench_division": "0.1 g"}
        self.filler: System = self.plant.add_system("Pouch filler", "filler", "filling", plates)
        self.channel: Channel = self.filler.channels.get()
        Channel.objects.filter(pk=self.channel.pk).update(name="Flake 1 kg", figures=FIGURES, factor="")
        self.url = f"/api/systems/{self.filler.id}/channels"

    def change(self, channel: Any, **given: Any) -> Any:
        return self.send(f"/api/channels/{channel.id}", given, method="patch")

    def fills(self, job: Job, trial: str, *weights: float, **cut_offs: str) -> None:
        texts = {f"trials.{trial}.{stage}": text for stage, text in cut_offs.items()}
        texts |= {f"trials.{trial}.fills.f{n}.weight": f"{weight} g" for n, weight in enumerate(weights, 1)}
        enter(job, self.plant.technician, texts)

    def test_they_stand_side_by_side_under_the_names_of_the_machine(self) -> None:
        view = self.client.get(f"/api/systems/{self.filler.id}").json()
        self.assertEqual((view["channel_name"], view["channels"][0]["figures"]["fine"]), ("recipe", "20 g"))
        self.assertEqual([one["title"] for one in view["channel_fields"]][-3:], ["Fast ends before", "Medium ends before", "Fine ends before"])  # fmt: skip
        two = self.plant.add_system("Bagger", "two-speed-filler", "filling", {})
        titles = [one["title"] for one in self.client.get(f"/api/systems/{two.id}").json()["channel_fields"]]
        self.assertEqual(titles[-2:], ["Filled slowly", "In flight"])

    def test_a_copy_takes_the_next_free_number(self) -> None:
        one = self.send(self.url, {"name": "Flake 500 g", "copy_of": str(self.channel.id), "figures": {"target": "500 g", "fast": "500 g"}})  # fmt: skip
        self.assertEqual(one.status_code, 201, one.content)
        figures = one.json()["figures"]
        self.assertEqual((figures["number"], figures["target"], figures["medium"]), (2, "500 g", "100 g"))
        four = self.send(self.url, {"name": "Flake 2 kg", "figures": {"number": 4}})
        self.assertEqual(four.json()["figures"], {"number": 4})
        self.assertEqual(self.send(self.url, {"name": "Flake 3 kg"}).json()["figures"]["number"], 3)

    def test_below_the_bulk_limit_a_copy_never_uses_fast(self) -> None:
        self.filler.plates |= {"bulk_limit": "250 g"}
        self.filler.save()
        small = self.send(self.url, {"name": "Flake 100 g", "copy_of": str(self.channel.id), "figures": {"target": "100 g"}})  # fmt: skip
        figures = small.json()["figures"]
        self.assertEqual((figures["fast"], figures["medium"], figures["fine"]), ("100 g", "100 g", "20 g"))
        large = self.send(
            self.url, {"name": "Flake 2 kg", "copy_of": str(self.channel.id), "figures": {"target": "2 kg"}}
        )
        self.assertEqual(large.json()["figures"]["fast"], "300 g")
        own = {"target": "200 g", "fast": "150 g"}
        typed = self.send(self.url, {"name": "Flake 200 g", "copy_of": str(self.channel.id), "figures": own})
        self.assertEqual(typed.json()["figures"]["fast"], "150 g")

    def test_a_slip_is_said_by_its_field_and_nothing_is_kept(self) -> None:
        before = Channel.objects.count()
        answer = self.send(self.url, {"name": " ", "figures": {"fine": "20 m", "colour": "red", "number": 1}})
        self.assertEqual(answer.status_code, 422)
        paths = {error["path"] for error in answer.json()["errors"]}
        self.assertEqual(paths, {"name", "figures.fine", "figures.colour", "figures.number"})
        twice = self.send(self.url, {"name": "flake 1 KG"})
        self.assertEqual([error["path"] for error in twice.json()["errors"]], ["name"])
        self.assertEqual(Channel.objects.count(), before)

    def test_a_change_by_hand_stays_in_the_trail(self) -> None:
        answer = self.change(self.channel, figures={"fine": "22,5", "over": ""}, name="Flakes 1 kg")
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(answer.json()["figures"]["fine"], "22.5 kg")
        said = {(c.field, c.before, c.after) for c in PlateChange.objects.filter(system=self.filler)}
        self.assertIn(("Flakes 1 kg, fine ends before", "20 g", "22.5 kg"), said)
        self.assertIn(("recipe", "Flake 1 kg", "Flakes 1 kg"), said)
        self.assertIn(("Flakes 1 kg, may be over by", "10 g", ""), said)

    def test_a_job_begins_with_the_recipe_and_its_cut_offs_as_the_first_trial(self) -> None:
        job = self.plant.job("fill-tuning", self.filler)
        view = self.client.get(f"/api/jobs/{job.id}").json()
        fields = {path: field["text"] for path, field in view["fields"].items()}
        self.assertEqual((fields["inputs.target"], fields["inputs.recipe"], fields["inputs.division"]), ("1000 g", "Flake 1 kg", "1 g"))  # fmt: skip
        first = view["rows"]["trials"][0]["row"]
        self.assertEqual(fields[f"trials.{first}.medium"], "100 g")

    def test_what_was_tuned_goes_back_into_the_recipe_with_the_spread_beside_it(self) -> None:
        job = self.plant.job("fill-tuning", self.filler)
        first = self.client.get(f"/api/jobs/{job.id}").json()["rows"]["trials"][0]["row"]
        self.fills(job, first, 1012, 1011, 1013)
        self.fills(job, "t2", fast="300 g", medium="100 g", fine="32 g")
        self.assertTrue(self.client.get(f"/api/jobs/{job.id}").json()["not_valid"])
        self.fills(job, "t2", 1001, 999, 1000)
        looked_over(job, self.plant.technician)
        self.assertEqual(self.send(f"/api/jobs/{job.id}/close", COMPLETE).status_code, 200)
        self.channel.refresh_from_db()
        self.assertEqual(self.channel.figures["fine"], "32 g")
        self.assertIsNotNone(self.channel.proved_at)
        change = PlateChange.objects.get(system=self.filler, field="Flake 1 kg, fine ends before")
        self.assertEqual((change.before, change.after), ("20 g", "32 g"))
        self.assertIn("spread 2 g", change.why)

    def test_the_sampling_plan_is_kept_with_the_recipe(self) -> None:
        job = self.plant.job("fill-check", self.filler)
        texts = {f"samples.s{n}.bench": f"{1000 + n % 3} g" for n in range(6)}
        enter(
            job,
            self.plant.technician,
            texts | {"inputs.sampling.first": "5", "inputs.sampling.every": "60", "inputs.auto_zero.every": "20"},
        )
        self.assertEqual(self.send(f"/api/jobs/{job.id}/close", COMPLETE).status_code, 200)
        again = self.plant.job("fill-check", self.filler)
        fields = self.client.get(f"/api/jobs/{again.id}").json()["fields"]
        self.assertEqual(
            (fields["inputs.sampling.first"]["text"], fields["inputs.sampling.every"]["text"]), ("5", "60")
        )

    def test_the_cut_offs_are_said_in_the_machine_s_own_words_on_the_bench(self) -> None:
        two = self.plant.add_system("Bagger", "two-speed-filler", "filling", {"division": "10 g"})
        Channel.objects.filter(system=two).update(figures={"target": "25 kg", "over": "50 g", "under": "50 g", "medium": "1.2 kg", "fine": "90 g"})  # fmt: skip
        job = self.plant.job("fill-tuning", two)
        view = self.client.get(f"/api/jobs/{job.id}").json()
        method = next(one for one in view["methods"] if one["key"] == "fill-tuning")
        rows = next(step["rows"] for step in method["steps"] if step["kind"] == "rows")
        self.assertEqual((rows["typed"], [c["title"] for c in rows["columns"]][:2]), (["medium", "fine"], ["Filled slowly", "In flight"]))  # fmt: skip
        self.assertEqual(view["fields"]["inputs.two_speeds"]["text"], "yes")
        first = view["rows"]["trials"][0]["row"]
        self.fills(job, first, 25010, 24990, 25000)
        self.assertEqual(self.client.get(f"/api/jobs/{job.id}").json()["parts"][0]["assessment"]["call"], "leave")

    def test_a_reader_and_a_stranger_change_none(self) -> None:
        for person in (self.plant.people["reader"], self.other.lead):
            client = self.signed_in(person)
            self.assertEqual(self.send(self.url, {"name": "x"}, client).status_code, 404)
            self.assertEqual(self.send(f"/api/channels/{self.channel.id}", {"name": "x"}, client, "patch").status_code, 404)  # fmt: skip
        copy = {"name": "x", "copy_of": str(self.other.system.channels.get().id)}
        self.assertEqual(self.send(self.url, copy).status_code, 404)


class OwnLists(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.filler = self.plant.add_system("Pouch filler", "filler", "filling", {})

    def write(self, **lists: list[dict[str, str]]) -> Any:
        return self.send(f"/api/systems/{self.filler.id}/record", {"lists": lists}, method="patch")

    def test_a_job_begins_with_the_plain_list_until_the_site_writes_its_own(self) -> None:
        job = self.plant.job("fill-precheck", self.filler)
        view = self.client.get(f"/api/jobs/{job.id}").json()
        self.assertEqual((len(view["rows"]["parts"]), len(view["rows"]["supplies"])), (6, 1))
        answer = self.write(checklist=[{"part": " Bag clamp ", "expected": "holds"}, {"part": "", "expected": " "}])
        listed = next(one for one in answer.json()["lists"] if one["key"] == "checklist")
        self.assertEqual(listed["rows"], [{"part": "Bag clamp", "expected": "holds"}])
        job = self.plant.job("fill-precheck", self.filler)
        fields = self.client.get(f"/api/jobs/{job.id}").json()["fields"]
        names = [
            field["text"] for path, field in fields.items() if path.startswith("parts.") and path.endswith(".name")
        ]
        self.assertEqual(names, ["Bag clamp"])

    def test_a_list_that_is_none_and_a_column_that_is_none_are_left_out(self) -> None:
        answer = self.write(checklist=[{"part": "a", "colour": "red"}], songs=[{"part": "b"}]).json()
        self.assertEqual({one["key"] for one in answer["lists"]}, {"checklist", "supplies"})
        self.assertEqual(next(one["rows"] for one in answer["lists"] if one["key"] == "checklist"), [{"part": "a"}])

    def test_what_it_was_stays_in_the_trail(self) -> None:
        self.write(checklist=[{"part": "Gate"}])
        change = self.write(checklist=[{"part": "Gate"}, {"part": "Clamp"}]).json()["changes"][0]
        self.assertEqual((change["before"], change["after"]), ("Gate", "Gate; Clamp"))
