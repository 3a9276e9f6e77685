"""Other programs: tokens with their scopes, and what changed since a moment."""

import datetime
import json
import threading
from typing import Any
from unittest import mock

from django.db import connection, connections, transaction
from django.utils import timezone

from beacon.bench.models import Entry, Job
from beacon.people.models import Membership, Person
from beacon.plant.models import Event
from beacon.programs.models import Program
from beacon.programs.tokens import ALLOWED
from tests.emptied import EmptiedTestCase
from tests.server.plant import GIVEN_UP, SIGN_IN, Plant, PlantTestCase, enter, entries, runs
from tests.server.tampering import untriggered
from tests.server.test_closing import IN_ORDER
from tests.server.together import send

ALL = ["read", "enter", "plan"]


class Tokens(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.lead = self.signed_in(self.plant.lead)
        self.nobody = self.client_class()

    def made(self, *scopes: str) -> Any:
        answer = self.send("/api/programs", {"name": "Maintenance", "scopes": scopes or ALL}, self.lead)
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()

    def ask(self, token: str, path: str, body: Any = None, method: str = "get") -> Any:
        headers = {"Authorization": f"Bearer {token}"}
        if method == "get":
            return self.nobody.get(path, headers=headers)
        given = json.dumps(body) if body is not None else ""
        return getattr(self.nobody, method)(path, given, content_type="application/json", headers=headers)

    def test_it_reads_what_it_may_and_its_use_is_seen(self) -> None:
        token = self.made("read")["token"]
        self.assertEqual(self.ask(token, "/api/due-dates").status_code, 200)
        self.assertEqual(self.ask(token, f"/api/systems/{self.plant.system.pk}").json()["name"], "Conveyor")
        (kept,) = self.lead.get("/api/programs").json()["programs"]
        self.assertIsNotNone(kept["used_at"])
        self.assertEqual((kept["token"], kept["begins_with"]), ("", token[:8]))
        self.assertNotIn(token, Program.objects.get().secret_sha256)

    def test_what_its_scopes_do_not_name_is_refused(self) -> None:
        token, job = self.made("read")["token"], self.plant.job()
        for path in ("/api/people", "/api/programs", "/api/me", "/api/feeds", "/api/chain", "/api/week"):
            self.assertEqual(self.ask(token, path).status_code, 403, path)
        answer = self.ask(token, f"/api/jobs/{job.pk}/entries", entries({"note": "x"}), "post")
        self.assertEqual(answer.status_code, 403)
        self.assertIn("read systems", answer.json()["detail"])
        only = self.made("plan")["token"]
        self.assertEqual(self.ask(only, "/api/log").status_code, 403)
        day = str(timezone.now().date() + datetime.timedelta(days=3))
        planned = self.ask(
            only, f"/api/systems/{self.plant.system.pk}/plan", {"day": day, "note": "with the fitter"}, "put"
        )
        self.assertEqual(planned.status_code, 204, planned.content)

    def test_what_it_enters_stands_under_its_name(self) -> None:
        token, job = self.made("enter")["token"], self.plant.job()
        answer = self.ask(token, f"/api/jobs/{job.pk}/entries", entries({"note": "belt changed"}), "post")
        self.assertEqual((answer.status_code, answer.json()["refused"]), (200, []))
        self.assertEqual(str(Entry.objects.get(job=job, path="note").who), "Maintenance")
        self.assertEqual(self.ask(token, f"/api/jobs/{job.pk}/close", GIVEN_UP, "post").status_code, 403)

    def test_a_job_file_goes_out_and_in_again_and_a_person_closes_it(self) -> None:
        token, job = self.made("read", "enter")["token"], self.plant.job()
        enter(job, self.plant.technician, runs(IN_ORDER))
        file = self.ask(token, f"/api/jobs/{job.pk}/job.json").json()
        answer = self.ask(token, f"/api/systems/{self.plant.system.pk}/jobs/import", file, "post")
        self.assertEqual(answer.status_code, 201, answer.content)
        again = Entry.objects.filter(job=answer.json()["id"])
        self.assertEqual({str(one.who) for one in again}, {"Maintenance"})
        self.assertEqual(again.filter(path__startswith="runs.").count(), Entry.objects.filter(job=job, path__startswith="runs.").count())  # fmt: skip
        broken = self.ask(token, f"/api/systems/{self.plant.system.pk}/jobs/import", file | {"method": "x"}, "post")
        self.assertEqual(broken.status_code, 422)
        self.assertEqual(self.ask(token, f"/api/jobs/{answer.json()['id']}/close", GIVEN_UP, "post").status_code, 403)

    def test_another_organisation_s_things_are_not_there(self) -> None:
        token, theirs = self.made()["token"], self.other.job()
        for path in (f"systems/{self.other.system.pk}", f"jobs/{theirs.pk}", f"references/{self.other.bridge.pk}/jobs"):
            self.assertEqual(self.ask(token, f"/api/{path}").status_code, 404, path)
        answer = self.ask(token, f"/api/jobs/{theirs.pk}/entries", entries({"note": "x"}), "post")
        self.assertEqual(answer.status_code, 404)
        self.assertNotIn("Far Skerry", self.ask(token, "/api/round").content.decode())

    def test_revoked_it_is_none_at_once_and_its_entries_stay(self) -> None:
        made, job = self.made(), self.plant.job()
        self.ask(made["token"], f"/api/jobs/{job.pk}/entries", entries({"note": "kept"}), "post")
        for _ in range(2):
            self.assertEqual(self.lead.delete(f"/api/programs/{made['id']}").status_code, 204)
        answer = self.ask(made["token"], "/api/due-dates")
        self.assertEqual((answer.status_code, answer.json()["title"]), (401, "This token is not known"))
        self.assertEqual(str(Entry.objects.get(path="note").who), "Maintenance")
        self.assertFalse(Membership.objects.filter(person__program=made["id"]).exists())

    def test_a_wrong_one_or_one_in_an_address_is_none(self) -> None:
        token = self.made()["token"]
        self.assertEqual(self.ask(token[:-1], "/api/due-dates").status_code, 401)
        self.assertEqual(self.nobody.get(f"/api/due-dates?token={token}&access_token={token}").status_code, 401)
        # Beside a session a token that is none is not overlooked.
        answer = self.client.get("/api/due-dates", headers={"Authorization": "Bearer wb_none"})
        self.assertEqual(answer.status_code, 401)

    def test_only_a_lead_makes_and_revokes_and_only_their_own(self) -> None:
        made = self.made()
        for who in (self.plant.technician, self.plant.people["reader"]):
            client = self.signed_in(who)
            self.assertEqual(self.send("/api/programs", {"name": "x", "scopes": ["read"]}, client).status_code, 404)
            self.assertEqual(client.get("/api/programs").status_code, 404)
            self.assertEqual(client.delete(f"/api/programs/{made['id']}").status_code, 404)
        other = self.signed_in(self.other.lead)
        self.assertEqual(other.delete(f"/api/programs/{made['id']}").status_code, 404)
        self.assertEqual(other.get("/api/programs").json()["programs"], [])
        self.assertEqual(self.ask(made["token"], "/api/due-dates").status_code, 200)

    def test_its_account_is_nobody_s(self) -> None:
        self.made()
        account = Person.objects.get(program__isnull=False)
        listed = self.lead.get("/api/people").content.decode() + self.lead.get("/api/colleagues").content.decode()
        self.assertNotIn(account.username, listed)
        body = {"username": account.username, "name": "x", "role": "lead"}
        self.assertEqual(self.send("/api/people", body, self.lead).status_code, 404)
        self.assertEqual(self.lead.delete(f"/api/people/{account.username}").status_code, 404)
        self.assertEqual(Membership.objects.get(person=account).role, "technician")
        answer = self.send(SIGN_IN, {"username": account.username, "password": "x"}, self.nobody)
        self.assertEqual(answer.status_code, 400)

    def test_systems_references_and_due_dates_go_in_and_out_by_the_same_shapes(self) -> None:
        token, reads = self.made("machines")["token"], self.made("read")["token"]
        given = {"name": "Quay scale", "division": "20 kg", "range": "60 t", "due": "2031-05-04"}
        made = self.ask(token, "/api/references", given, "post")
        self.assertEqual(made.status_code, 201, made.content)
        known = next(one for one in self.ask(reads, "/api/references").json() if one["name"] == "Quay scale")
        back = {key: known[key] for key in ("name", "division", "range", "due")} | {"due": "2032-05-04"}
        self.assertEqual(self.ask(token, f"/api/references/{known['id']}", back, "put").status_code, 200)
        system = {"site": str(self.plant.site.pk), "kind": "belt", "name": "Upper belt", "channels": ["main"]}
        added = self.ask(token, "/api/systems", system, "post")
        self.assertEqual(added.status_code, 201, added.content)
        url = f"/api/systems/{added.json()['id']}"
        changed = self.ask(token, f"{url}/record", {"material": "shell"}, "patch")
        self.assertEqual((changed.status_code, self.ask(reads, url).json()["material"]), (200, "shell"))
        self.assertEqual(
            self.ask(
                token, f"{url}/intervals", {"calibration": [{"kind": "days", "every": 90}], "why": "as agreed"}, "put"
            ).status_code,
            204,
        )
        self.assertEqual(self.ask(reads, "/api/systems", system | {"name": "x"}, "post").status_code, 403)
        # A lead's role is for these few alone: it makes no person and no token, and is no lead among people.
        for path, body in (
            ("/api/people", {"username": "a@b.example", "name": "x", "role": "lead"}),
            ("/api/programs", {"name": "x", "scopes": ["read"]}),
        ):
            self.assertEqual(self.ask(token, path, body, "post").status_code, 403)
        self.assertEqual(len(self.lead.get("/api/people").json()), 3)
        self.assertEqual(
            self.ask(token, f"/api/systems/{self.other.system.pk}/record", {"material": "x"}, "patch").status_code, 404
        )

    def test_whatever_its_scopes_it_decides_nothing_that_a_person_answers_for(self) -> None:
        token, job = self.made("enter", "machines")["token"], self.plant.job()
        enter(job, self.plant.technician, runs(IN_ORDER[:1]))
        theirs = Entry.objects.get(job=job, path="runs.r1.gross")
        url = f"/api/jobs/{job.pk}/entries"
        decided = {
            "references.r1.allowed_by": "Ada Rook", "profile.accept": "9 %", "profile.accept ": "", "looked.empty": "yes", "skipped.build-up": "no time",
            "cured.idler": "yes", "runs.r1.set_aside": "spillage", "no_as_found": "was broken", "tick.look.belt": "done", "loose.zero-again": "done",
        }  # fmt: skip
        for path, text in decided.items():
            with self.subTest(path):
                answer = self.ask(token, url, entries({path.strip(): text}), "post")
                self.assertEqual(len(answer.json()["refused"]), 1, answer.content)
        taken_back = entries({"runs.r1.gross": ""})
        taken_back[0] |= {"undoes": True, "supersedes": str(theirs.entry_id)}
        self.assertIn("a person's to say", self.ask(token, url, taken_back, "post").json()["refused"][0]["text"])
        own = entries({"runs.r2.gross": "24.22 t"})
        self.assertEqual(self.ask(token, url, own, "post").json()["refused"], [])
        back = entries({"runs.r2.gross": ""})
        back[0] |= {"undoes": True, "supersedes": own[0]["id"]}
        self.assertEqual(self.ask(token, url, back, "post").json()["refused"], [])
        trail = self.client.get(f"/api/jobs/{job.pk}/job.json").json()
        trail["profile"] = {"accept": "9 %"}
        brought = self.ask(token, f"/api/systems/{self.plant.system.pk}/jobs/import", trail, "post")
        self.assertEqual(brought.status_code, 422, brought.content)

    def test_every_path_that_a_scope_names_is_one(self) -> None:
        from beacon.api import api

        there = api.get_openapi_schema()["paths"]
        for scope, ways in ALLOWED.items():
            for method, paths in ways.items():
                for path in paths:
                    self.assertIn(method.lower(), there.get(f"/api/{path}", {}), f"{scope} {path}")

    def test_what_cannot_be_made_is_said(self) -> None:
        for body in ({"name": "", "scopes": ["read"]}, {"name": "x", "scopes": []}, {"name": "x", "scopes": ["all"]}):
            self.assertEqual(self.send("/api/programs", body, self.lead).status_code, 422)
        with mock.patch("beacon.programs.tokens.MOST", 1):
            self.made()
            self.assertEqual(self.send("/api/programs", {"name": "y", "scopes": ["read"]}, self.lead).status_code, 422)


class Changes(PlantTestCase):
    def test_what_happened_since_a_moment_and_no_more(self) -> None:
        begin = timezone.now() - datetime.timedelta(minutes=1)
        job = self.plant.job()
        enter(job, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        answer = self.send(f"/api/jobs/{job.pk}/close", {"signed": "x", "outcome": "complete"})
        self.assertEqual(answer.status_code, 200, answer.content)
        with mock.patch("beacon.programs.api.SETTLED", datetime.timedelta(0)):
            found = self.client.get("/api/changes", {"since": begin.isoformat()}).json()
            self.assertEqual([one["number"] for one in found["records"]], [1])
            self.assertEqual([(one["name"], one["state"]) for one in found["systems"]], [("Conveyor", "in-order")])
            after = self.client.get("/api/changes", {"since": found["until"]}).json()
            self.assertEqual((after["records"], after["systems"], after["more"]), ([], [], False))
            theirs = self.signed_in(self.other.lead).get("/api/changes", {"since": begin.isoformat()}).json()
            self.assertEqual(theirs["records"], [])
        self.assertEqual(self.client.get("/api/changes?since=yesterday").status_code, 422)
        self.assertEqual(self.client.get("/api/changes?since=2031-05-04T10:00:00").status_code, 422)

    def test_what_comes_in_late_is_told_when_it_comes(self) -> None:
        since = timezone.now()
        late = self.plant.job()
        enter(late, self.plant.technician, {"inputs.zero_done": "job"} | runs(IN_ORDER))
        then = since - datetime.timedelta(days=2)
        Job.objects.filter(pk=late.pk).update(opened_at=then, touched_at=then)
        closing = {"signed": "x", "outcome": "left-for-repair", "fault": "a worn idler", "told": "the yard"}
        answer = self.send(f"/api/jobs/{late.pk}/close", closing | {"at": then.isoformat()})
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(Job.objects.get(pk=late.pk).closed_at, then)
        event = {"kind": "idler", "at": then.isoformat()}
        self.assertLess(self.send(f"/api/systems/{self.plant.system.pk}/events", event).status_code, 300)
        with mock.patch("beacon.programs.api.SETTLED", datetime.timedelta(0)):
            found = self.client.get("/api/changes", {"since": since.isoformat()}).json()
        self.assertEqual([one["number"] for one in found["records"]], [1])
        self.assertEqual([one["title"] for one in found["faults"]], ["a worn idler"])
        self.assertEqual([one["name"] for one in found["systems"]], ["Conveyor"])

    def test_what_was_kept_before_there_was_such_a_time_is_told_by_when_it_was_sealed(self) -> None:
        self.send(f"/api/jobs/{self.plant.job().pk}/close", GIVEN_UP)
        with untriggered(), connection.cursor() as cursor:
            cursor.execute("update records_record set kept_at = null")
        begin = timezone.now() - datetime.timedelta(minutes=1)
        with mock.patch("beacon.programs.api.SETTLED", datetime.timedelta(0)):
            found = self.client.get("/api/changes", {"since": begin.isoformat()}).json()
        self.assertEqual(len(found["records"]), 1)

    def test_a_part_at_a_time_goes_on_where_it_ended(self) -> None:
        begin = timezone.now() - datetime.timedelta(minutes=1)
        for _ in range(3):
            self.send(f"/api/jobs/{self.plant.job().pk}/close", GIVEN_UP)
        numbers: list[int] = []
        since = begin.isoformat()
        with (
            mock.patch("beacon.programs.api.MOST_CHANGES", 2),
            mock.patch("beacon.programs.api.SETTLED", datetime.timedelta(0)),
        ):
            for _ in range(2):
                found = self.client.get("/api/changes", {"since": since}).json()
                numbers += [one["number"] for one in found["records"]]
                since = found["until"]
        self.assertEqual((numbers, found["more"]), ([1, 2, 3], False))


class ChangesMeanwhile(EmptiedTestCase):
    def test_what_is_kept_slowly_is_not_passed_over(self) -> None:
        plant = Plant("Gannet Ness")
        self.client.force_login(plant.lead)
        since = timezone.now() - datetime.timedelta(minutes=1)
        began, go_on = threading.Event(), threading.Event()

        def slowly() -> None:
            with transaction.atomic():
                Event.objects.create(system=plant.system, kind="idler", who=plant.lead)
                began.set()
                go_on.wait(20)
            connections.close_all()

        beside = threading.Thread(target=slowly)
        beside.start()
        self.assertTrue(began.wait(20))
        with mock.patch("beacon.programs.api.SETTLED", datetime.timedelta(0)):
            send(self.client, f"/api/jobs/{plant.job().pk}/close", GIVEN_UP)
            first = self.client.get("/api/changes", {"since": since.isoformat()}).json()
            go_on.set()
            beside.join()
            second = self.client.get("/api/changes", {"since": first["until"]}).json()
        self.assertEqual(first["systems"], [])
        self.assertEqual(([one["name"] for one in second["systems"]], len(second["records"])), (["Conveyor"], 1))
