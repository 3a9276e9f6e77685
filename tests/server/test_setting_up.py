"""A plant from one spreadsheet: read, looked at, taken as a whole or not at all; a system copied with its plates."""

import datetime
import io
import random
import threading
import zipfile
from contextlib import suppress
from typing import Any
from unittest.mock import patch

from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connections
from django.test import Client
from django.utils import timezone
from openpyxl import Workbook, load_workbook

from beacon.background.made import told
from beacon.mail.models import Mail
from beacon.people.models import Invitation, Membership, Person
from beacon.plant.models import Channel, Reference, Site, System
from beacon.setting_up import tasks
from beacon.setting_up.api import AT_ONCE
from beacon.setting_up.cells import MOST_ROWS
from beacon.setting_up.columns import kind_of
from beacon.setting_up.models import SetUp as SheetTaken
from beacon.setting_up.reading import NotATable, rows_of
from beacon.setting_up.taking import take
from tests.emptied import EmptiedTestCase
from tests.server.background import work
from tests.server.plant import PASSWORD, Plant, PlantTestCase
from wary.machines import all_machines

BELT = {"Name": "Upper belt", "Site": "North quay", "Material": "shell", "Rated rate": "250 t/h", "Idler spacing": "0.9 m", "Factor": "1.1420"}  # fmt: skip
SCALE = {"Name": "Quay scale", "Kind": "scale", "Division": "20 kg", "Range": "60 t", "In date until": "2031-05-04"}
MARA = {"Name": "Mara Skerry", "Address": "Mara@Skerry.example", "Role": "Technician"}


def book(**sheets: list[dict[str, Any]]) -> bytes:
    """A workbook of sheets, each with rows by their headers."""
    found = Workbook()
    assert found.active is not None
    found.remove(found.active)
    for title, rows in sheets.items():
        sheet = found.create_sheet(title.replace("_", " "))
        headers = list(dict.fromkeys(key for row in rows for key in row))
        sheet.append(headers)
        for row in rows:
            sheet.append([row.get(header) for header in headers])
    kept = io.BytesIO()
    found.save(kept)
    return kept.getvalue()


class Reading(PlantTestCase):
    def test_a_workbook_and_a_table_of_text_read_alike(self) -> None:
        rows = rows_of(book(Belt_scale=[BELT]), "plant.xlsx")
        self.assertEqual((rows[0].sheet, rows[0].line, rows[0].cells["Rated rate"]), ("Belt scale", 2, "250 t/h"))
        text = "Name;Site;Kind;Rated rate\nUpper belt;North quay;belt scale;250 t/h\n\n".encode("utf-8-sig")
        self.assertEqual(rows_of(text, "belts.csv")[0].cells["Rated rate"], "250 t/h")
        self.assertEqual(rows_of(b"Name\tSite\nA\tB\n", "x.csv")[0].cells, {"Name": "A", "Site": "B"})

    def test_numbers_and_days_are_what_somebody_would_write(self) -> None:
        row = rows_of(book(Things=[{"A": 4, "B": 0.125, "C": 3.0, "D": datetime.date(2031, 5, 4), "E": True}]), "x")[0]
        self.assertEqual(row.cells, {"A": "4", "B": "0.125", "C": "3", "D": "2031-05-04", "E": "yes"})

    def test_what_is_no_table_says_what_to_do(self) -> None:
        for content, words in (
            (b"", "is empty"),
            (b"PK not really", "no workbook"),
            (b"\xff\xfe\x00broken", "UTF-8"),
            (b"a,b\n1,\x00", "no text"),
            (b'a,b\n1,"never ends', "cannot be read as CSV"),
            (b"Name,Site\n", "no row"),
            (b"Name\n" + b"x\n" * (MOST_ROWS + 1), "more than"),
            (b"x" * 5_000_001, "larger than"),
        ):
            with self.assertRaises(NotATable) as said:
                rows_of(content, "x.csv")
            self.assertIn(words, str(said.exception))

    def test_a_workbook_that_is_broken_anywhere_is_said(self) -> None:
        whole = book(Belt_scale=[BELT])
        draw = random.Random(7)
        for _ in range(200):
            broken = bytearray(whole)
            for _ in range(draw.randint(1, 30)):
                broken[draw.randrange(2, len(broken))] = draw.randrange(256)
            with suppress(NotATable):
                rows_of(bytes(broken), "x.xlsx")
        sheets = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(whole)) as read, zipfile.ZipFile(sheets, "w") as write:
            for one in read.namelist():
                write.writestr(one, read.read(one)[:-40] if "sheet1" in one else read.read(one))
        with self.assertRaises(NotATable):
            rows_of(sheets.getvalue(), "x.xlsx")

    def test_the_template_has_a_sheet_for_each_kind_with_its_plates_and_is_taken_in_as_it_is_filled_in(self) -> None:
        lead = self.signed_in(self.plant.lead)
        content = lead.get("/api/set-up/template.xlsx").content
        sheets = load_workbook(io.BytesIO(content))
        for machine in all_machines().values():
            own = [title for title in sheets.sheetnames if kind_of(title) is machine]
            self.assertEqual(len(own), 1, machine.title)
            headers = [cell.value for cell in sheets[own[0]][1]]
            self.assertLessEqual(
                {"Name", "Site", *(machine.titles()[plate.key] for plate in machine.plates)}, set(headers)
            )
            self.assertEqual(len(set(headers)), len(headers), machine.key)
            sheets[own[0]].append([f"A {machine.key}", "North quay"])
        kept = io.BytesIO()
        sheets.save(kept)
        answer = lead.post("/api/set-up?keep=true", kept.getvalue(), content_type="application/octet-stream").json()
        self.assertEqual((answer["taken"], answer["refused"]), (True, 0), answer)
        self.assertEqual(System.objects.filter(site__name="North quay").count(), len(all_machines()))


class SetUp(PlantTestCase):
    def sent(self, content: bytes, keep: bool = False, name: str = "plant.xlsx") -> dict[str, Any]:
        client = self.signed_in(self.plant.lead)
        url = f"/api/set-up?name={name}&keep={'true' if keep else 'false'}"
        answer = client.post(url, content, content_type="application/octet-stream")
        self.assertEqual(answer.status_code, 200, answer.content)
        return dict(answer.json())

    def test_it_is_looked_at_before_it_is_kept(self) -> None:
        content = book(Belt_scale=[{**BELT, "Reference": "Quay scale"}], References=[SCALE], People=[MARA])
        before = System.objects.count()
        looked = self.sent(content)
        self.assertEqual((looked["taken"], looked["refused"], looked["new_sites"]), (False, 0, ["North quay"]))
        self.assertEqual([line["what"] for line in looked["lines"]], ["belt scale", "reference", "person"])
        self.assertEqual((looked["invited"], Mail.objects.count()), ([], 0))
        self.assertEqual(System.objects.count(), before)
        self.assertFalse(Site.objects.filter(name="North quay").exists())
        taken = self.sent(content, keep=True)
        self.assertTrue(taken["taken"])
        system = System.objects.get(name="Upper belt")
        self.assertEqual((system.site.name, system.plates["rated_rate"], system.reference and system.reference.name), ("North quay", "250 t/h", "Quay scale"))  # fmt: skip
        self.assertEqual(system.channels.get().factor, "1.1420")
        (invited,) = taken["invited"]
        self.assertEqual(Mail.objects.get().to, "mara@skerry.example")
        joined = self.send(invited["link"].replace("http://127.0.0.1:8400", "/api"), {"name": "Mara", "password": PASSWORD}, Client())  # fmt: skip
        self.assertEqual(joined.status_code, 201, joined.content)
        self.assertEqual(Membership.objects.get(person__username="mara@skerry.example").role, "technician")

    def test_one_line_that_cannot_be_kept_keeps_all_of_them_out_and_says_where_and_why(self) -> None:
        content = book(
            Belt_scale=[BELT, {**BELT, "Name": "", "Rated rate": "very much", "Colour": "red"}, {**BELT, "Name": "Third", "Rated rate": "very much"}],
            References=[{**SCALE, "Division": ""}, {"Name": "Odd", "Kind": "ruler"}],
            People=[{**MARA, "Role": "boss"}, {**MARA, "Sites": "Nowhere", "Role": "reader"}],
        )  # fmt: skip
        before = (System.objects.count(), Reference.objects.count(), Person.objects.count(), Site.objects.count())
        answer = self.sent(content, keep=True)
        self.assertEqual((answer["taken"], answer["refused"]), (False, 6))
        why = {(line["sheet"], line["line"]): " ".join(line["refused"]) for line in answer["lines"]}
        self.assertEqual(why["Belt scale", 2], "")
        self.assertIn("“Colour” is no column here", why["Belt scale", 3])
        self.assertIn("“Name” is empty", why["Belt scale", 3])
        self.assertIn("very much", why["Belt scale", 4])
        self.assertIn("what it is used for", why["References", 2])
        self.assertIn("no kind of reference", why["References", 3])
        self.assertIn("no role", why["People", 2])
        self.assertIn("no site “Nowhere”", why["People", 3])
        after = (System.objects.count(), Reference.objects.count(), Person.objects.count(), Site.objects.count())
        self.assertEqual(after, before)
        self.assertNotIn("plates.", str(why))

    def test_what_is_on_record_already_is_refused(self) -> None:
        content = book(Belt_scale=[BELT, BELT], References=[SCALE], People=[MARA])
        answer = self.sent(content, keep=True)
        self.assertIn("on record already at North quay", str(answer["lines"]))
        once = book(Belt_scale=[BELT], References=[SCALE], People=[MARA])
        self.assertTrue(self.sent(once, keep=True)["taken"])
        again = self.sent(once, keep=True)
        self.assertEqual(again["refused"], 3, again)

    def test_one_table_of_text_may_hold_several_kinds(self) -> None:
        text = 'Name,Site,Kind,Capacity (kg),Rated rate\nHopper,North quay,"hopper, silo or tank",12000,\nBelt,North quay,belt,,250 t/h\nOdd,North quay,anvil,,\n'
        answer = self.sent(text.encode(), name="plant.csv")
        self.assertEqual([len(line["refused"]) for line in answer["lines"]], [0, 0, 1])
        self.assertTrue(self.sent(text.rpartition("Odd")[0].encode(), keep=True, name="plant.csv")["taken"])
        self.assertEqual(System.objects.get(name="Hopper").plates["capacity"], "12000 kg")

    def test_somebody_known_elsewhere_is_invited_and_has_no_new_password(self) -> None:
        elsewhere = self.other.technician
        answer = self.sent(book(People=[{**MARA, "Address": elsewhere.username}]), keep=True)
        self.assertEqual((answer["taken"], len(answer["invited"])), (True, 1))
        self.assertFalse(Membership.objects.filter(organisation=self.plant.organisation, person=elsewhere).exists())
        self.assertTrue(self.plant.organisation.invitations.filter(person=elsewhere).exists())

    def test_only_a_lead_may(self) -> None:
        self.assertEqual(self.client.get("/api/set-up/template.xlsx").status_code, 404)
        answer = self.client.post("/api/set-up", book(People=[MARA]), content_type="application/octet-stream")
        self.assertEqual(answer.status_code, 404)

    def test_a_formula_of_a_cell_is_never_kept_as_one_and_long_text_is_refused(self) -> None:
        answer = self.sent(book(Belt_scale=[{**BELT, "Name": "n" * 200}]))
        self.assertEqual(answer["refused"], 1)
        self.assertIn("Name", answer["lines"][0]["refused"][0])


class AtOnce(EmptiedTestCase):
    def test_the_same_file_sent_twice_at_once_is_taken_once(self) -> None:
        plant = Plant("Gannet Ness")
        rows = rows_of(book(Belt_scale=[BELT], References=[SCALE]), "plant.xlsx")
        found: list[int] = []

        def send() -> None:
            try:
                found.append(take(plant.lead, plant.organisation, rows, True).refused)
            finally:
                connections.close_all()

        both = [threading.Thread(target=send) for _ in range(2)]
        for one in both:
            one.start()
        for one in both:
            one.join()
        self.assertEqual(sorted(found), [0, 2])
        self.assertEqual(System.objects.filter(name="Upper belt").count(), 1)


class Copied(PlantTestCase):
    def test_a_copy_has_plates_limits_and_channels_and_no_factor_of_its_own(self) -> None:
        mine = self.plant.system
        Channel.objects.filter(system=mine).update(factor="1.1420", zero="41 kg", figures={"target": "4 t"})
        System.objects.filter(pk=mine.pk).update(serial="4711")
        answer = self.send(f"/api/systems/{mine.id}/copy", {"name": "Lower belt"})
        self.assertEqual(answer.status_code, 201, answer.content)
        twin = System.objects.get(name="Lower belt")
        self.assertEqual(
            (twin.plates, twin.profile, twin.kind, twin.site), (mine.plates, mine.profile, mine.kind, mine.site)
        )
        channel = twin.channels.get()
        self.assertEqual((channel.factor, channel.zero, channel.figures), ("", "", {"target": "4 t"}))
        self.assertEqual((twin.serial, twin.reference, twin.state), ("", None, "not-tested"))

    def test_a_name_that_is_taken_is_said(self) -> None:
        answer = self.send(f"/api/systems/{self.plant.system.id}/copy", {"name": self.plant.system.name.upper()})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("already", answer.json()["errors"][0]["text"])
        other = self.send(f"/api/systems/{self.other.system.id}/copy", {"name": "Theirs"})
        self.assertEqual(other.status_code, 404)

    def test_a_lead_makes_a_site_with_its_first_system_and_nobody_else_does(self) -> None:
        body = {"new_site": "South quay", "name": "Hopper", "kind": "vessel"}
        self.assertEqual(self.send("/api/systems", body).status_code, 404)
        answer = self.send("/api/systems", body, self.signed_in(self.plant.lead))
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertEqual(System.objects.get(name="Hopper").site.name, "South quay")


class Long(EmptiedTestCase):
    """More rows than somebody waits for: gone through in the background, once."""

    def setUp(self) -> None:
        self.plant = Plant("Gannet Ness")
        self.client.force_login(self.plant.lead)

    def rows(self, count: int = AT_ONCE + 1, rate: str = "250 t/h") -> bytes:
        lines = "".join(f"Belt {number},North quay,belt,{rate}\n" for number in range(count))
        return f"Name,Site,Kind,Rated rate\n{lines}".encode()

    def sent(self, content: bytes, keep: bool = False, status: int = 202) -> dict[str, Any]:
        url = f"/api/set-up?name=plant.csv&keep={'true' if keep else 'false'}"
        answer = self.client.post(url, content, content_type="application/octet-stream")
        self.assertEqual(answer.status_code, status, answer.content)
        return dict(answer.json())

    def latest(self) -> dict[str, Any]:
        return dict(self.client.get("/api/set-ups").json()[0])

    def belts(self) -> int:
        return System.objects.filter(name__startswith="Belt ").count()

    def kept(self, one: dict[str, Any]) -> int:
        return self.client.post(f"/api/set-ups/{one['id']}/keep").status_code

    def test_it_is_looked_at_first_and_kept_out_of_what_lies_on_the_server(self) -> None:
        begun = self.sent(self.rows())
        self.assertEqual((begun["done"], begun["of"], self.latest()["found"]), (0, AT_ONCE + 1, None))
        self.assertEqual(self.kept(begun), 409)
        work()
        looked = self.latest()
        self.assertEqual((looked["found"]["taken"], looked["found"]["refused"], self.belts()), (False, 0, 0))
        self.assertEqual(looked["found"]["new_sites"], ["North quay"])
        self.assertEqual(self.kept(looked), 202)
        self.assertEqual(self.kept(looked), 409)
        work()
        self.assertEqual((self.latest()["found"]["taken"], self.belts()), (True, AT_ONCE + 1))
        self.assertEqual(self.kept(looked), 409)
        self.assertFalse(default_storage.exists(SheetTaken.objects.get().name))

    def test_it_says_how_far_it_is_while_it_goes(self) -> None:
        seen = []

        def watched(made: SheetTaken, done: int, total: int) -> None:
            told(made, done, total)
            seen.append((self.latest()["done"], self.latest()["of"], self.belts()))

        self.sent(self.rows(), keep=True)
        with patch("beacon.setting_up.tasks.told", watched):
            tasks.go_through(str(SheetTaken.objects.get().pk))
        self.assertEqual(seen[0][:2], (25, AT_ONCE + 1))
        self.assertEqual([done for done, _, _ in seen], [25, 50, 75, 100, 125, 150])

    def test_one_that_is_refused_keeps_all_out_and_cannot_be_kept(self) -> None:
        self.sent(self.rows() + b"Odd,North quay,anvil,\n")
        work()
        looked = self.latest()
        self.assertEqual((looked["found"]["refused"], self.kept(looked), self.belts()), (1, 409, 0))

    def test_a_worker_that_dies_in_the_middle_leaves_nothing_half_and_the_next_does_it_once(self) -> None:
        self.sent(self.rows(), keep=True)
        one = str(SheetTaken.objects.get().pk)
        with patch("beacon.setting_up.tasks.told", side_effect=SystemExit), self.assertRaises(SystemExit):
            tasks.go_through(one)
        self.assertEqual((self.belts(), self.latest()["finished_at"]), (0, None))
        tasks.go_through(one)
        tasks.go_through(one)
        work()
        self.assertEqual(self.belts(), AT_ONCE + 1)

    def test_two_at_once_are_one_after_the_other(self) -> None:
        self.sent(self.rows())
        self.assertIn("being gone through", self.sent(self.rows(), status=409)["title"])
        work()
        self.sent(self.rows())

    def test_whoever_leads_no_more_keeps_nothing(self) -> None:
        self.sent(self.rows(), keep=True)
        Membership.objects.filter(person=self.plant.lead).update(role="reader")
        work()
        self.assertIn("leads this organisation no more", SheetTaken.objects.get().failed)
        self.assertEqual(self.belts(), 0)

    def test_who_is_invited_gets_a_mail_and_no_link_is_left_in_the_database(self) -> None:
        people = "".join(f"P {n},p{n}@skerry.example,Technician\n" for n in range(AT_ONCE + 1))
        self.sent(f"Name,Address,Role\n{people}".encode(), keep=True)
        work()
        found = self.latest()["found"]
        self.assertEqual({one["link"] for one in found["invited"]}, {""})
        self.assertEqual((len(found["invited"]), found["mailed"]), (AT_ONCE + 1, settings.BY_MAIL))
        self.assertEqual(Invitation.objects.count(), AT_ONCE + 1)

    def test_what_lies_there_for_a_week_is_let_go_of(self) -> None:
        self.sent(self.rows())
        SheetTaken.objects.update(at=timezone.now() - tasks.KEPT_FOR - datetime.timedelta(hours=1))
        name = SheetTaken.objects.get().name
        tasks.forget(0)
        self.assertEqual((SheetTaken.objects.count(), default_storage.exists(name)), (0, False))
