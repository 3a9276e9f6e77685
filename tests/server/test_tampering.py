"""Changes at random, made past every guard of the database: `verify` finds each of them (`./run fuzz` makes a thousand)."""

import datetime
import json
import os
import random
import uuid
from contextlib import suppress
from typing import Any

from django.db import IntegrityError, connection, transaction

from beacon.attachments.models import Attachment, LateAttachment
from beacon.bench.models import Entry, Job
from beacon.people.models import Organisation, Person
from beacon.records.models import Record
from beacon.records.sealing import Handed, read_seals, seals
from beacon.records.verifying import Broken, verify
from tests.server.pictures import photograph
from tests.server.plant import PlantTestCase, enter, runs
from tests.server.tampering import untriggered
from tests.server.test_closing import IN_ORDER

CHANGES = int(os.environ.get("BEACON_CHANGES", "150"))
STOPPED = {"signed": "x", "outcome": "out-of-service", "reason": "frame bent"}
ROWS: tuple[tuple[type[Any], str], ...] = (
    (Entry, "kept_at"),
    (Record, "kept_at"),
    (Job, ""),
    (Attachment, "width height pages"),
)
"""The rows that a person sees of what is closed; beside each what of it is not sealed (see docs/security.md)."""


class Tampered(PlantTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.jobs = [self.sealed(self.plant), self.sealed(self.plant, photographed=True), self.sealed(self.other)]
        lead = self.signed_in(self.plant.lead)
        record = Record.objects.get(job=self.jobs[0])
        again = self.send(f"/api/records/{record.id}/put-right", {"reason": "read wrongly"}, lead).json()["id"]
        self.assertEqual(self.send(f"/api/jobs/{again}/close", STOPPED, lead).status_code, 200)
        self.draw = random.Random(20311)

    def sealed(self, plant: Any, photographed: bool = False) -> Job:
        client = self.signed_in(plant.technician)
        job = plant.job()
        texts = {"inputs.zero_done": "job", "note": "dry"} | runs(IN_ORDER)
        mine = {path: text for path, text in texts.items() if not path.startswith("runs.r3")}
        enter(job, plant.technician, mine)
        enter(job, plant.lead, {path: text for path, text in texts.items() if path not in mine})
        if photographed:
            sent = client.post(f"/api/jobs/{job.id}/attachments?path=runs.r1", photograph(), content_type="image/jpeg")
            self.assertEqual(sent.status_code, 201)
        answer = self.send(f"/api/jobs/{job.id}/close", STOPPED, client)
        self.assertEqual(answer.status_code, 200, answer.content)
        return job

    def broken(self, against: dict[str, list[Handed]] | None = None) -> list[str]:
        return [str(one) for one in verify(against) if isinstance(one, Broken)]

    def other_value(self, field: Any, value: Any) -> Any:
        """Another value that a column could hold."""
        draw = self.draw
        kind = field.get_internal_type()
        if field.is_relation:
            if field.related_model is Person:
                return draw.choice(list(Person.objects.exclude(pk=value).values_list("pk", flat=True)))
            others = field.related_model.objects.exclude(pk=value).values_list("pk", flat=True)
            return draw.choice([*others, *([None] if field.null and value else [])])
        if kind == "JSONField":
            return json.dumps(self.other_json(value))
        if kind == "ArrayField":
            return [*value, uuid.UUID(int=draw.getrandbits(128))]
        if value is None:
            return {"UUIDField": uuid.uuid4(), "BooleanField": True, "DateTimeField": datetime.datetime.now(datetime.UTC)}.get(kind, 7)  # fmt: skip
        if kind == "BooleanField":
            return not value
        if kind == "UUIDField":
            return uuid.UUID(int=draw.getrandbits(128))
        if kind == "DateTimeField":
            return value + datetime.timedelta(seconds=draw.choice((-86_400, 1, 3600)))
        if isinstance(value, int):
            return value + draw.choice((1, 2, 100))
        text = str(value)
        if len(text) > 500:
            place = draw.randrange(len(text))
            return text[:place] + ("7" if text[place] != "7" else "8") + text[place + 1 :]
        return (
            f"{text}1" if len(text) < (field.max_length or 99) else "1" + text[1:] if text[0] != "1" else "2" + text[1:]
        )

    def other_json(self, found: Any) -> Any:
        """The same with one thing in it another."""
        if isinstance(found, dict) and found:
            key = self.draw.choice(sorted(found))
            return found | {key: self.other_json(found[key])}
        if isinstance(found, list) and found:
            return [self.other_json(found[0]), *found[1:]]
        return "other" if found != "other" else "another"

    def change(self) -> str:
        """Makes one change, and says which."""
        model, unsealed = self.draw.choices(ROWS, (4, 3, 4, 1))[0]
        rows = model.objects.all()
        if model is Entry:
            rows = rows.filter(job__closed_at__isnull=False)
        row = self.draw.choice(list(rows.order_by("pk").values()))
        key = model._meta.pk.column
        table = model._meta.db_table
        with connection.cursor() as cursor:
            if self.draw.random() < 0.1:
                cursor.execute(f"delete from {table} where {key} = %s", [row[model._meta.pk.attname]])
                return f"delete from {table}"
            fields = [one for one in model._meta.concrete_fields if not one.primary_key or model is not Entry]
            field = self.draw.choice([one for one in fields if one.name not in unsealed.split()])
            value = self.other_value(field, row[field.attname])
            if field.primary_key:
                value = uuid.UUID(int=self.draw.getrandbits(128))
            statement = f"update {table} set {field.column} = %s where {key} = %s"
            cast = {"JSONField": "%s::jsonb", "ArrayField": "%s::uuid[]"}.get(field.get_internal_type(), "%s")
            cursor.execute(statement.replace("%s", cast, 1), [value, row[model._meta.pk.attname]])
            return f"{table}.{field.column}: {row[field.attname]!r:.80} → {value!r:.80}"

    def test_every_one_of_them_is_found(self) -> None:
        self.assertEqual(self.broken(), [])
        missed, made = [], 0
        with untriggered():
            while made < CHANGES:
                # What the database's own constraints refuse is no change.
                with suppress(IntegrityError), transaction.atomic():
                    said = self.change()
                    made += 1
                    if not self.broken():
                        missed.append(said)
                    transaction.set_rollback(True)
        self.assertFalse(missed, "\n".join(missed))

    def test_an_entry_given_to_another_person_is_found(self) -> None:
        """Also where that person has no other entry in the job, and where all of somebody's are given away."""
        stranger = self.plant.person("stranger@gannetness.example", "technician")
        mine = Entry.objects.filter(job=self.jobs[0], who=self.plant.technician)
        for some in (mine[:1], mine):
            ids = [one.pk for one in some]
            with untriggered(), transaction.atomic():
                Entry.objects.filter(pk__in=ids).update(who=stranger)
                self.assertIn("entries in the database are not those that were sealed", str(self.broken()))
                transaction.set_rollback(True)

    def test_an_organisation_taken_out_whole_is_missed(self) -> None:
        handed = read_seals(seals(self.plant.organisation))
        organisation = self.plant.organisation.id
        with untriggered(), transaction.atomic():
            for model, way in (
                (Attachment, "organisation"),
                (Entry, "job__channel__system__site__organisation"),
                (Record, "organisation"),
                (Job, "channel__system__site__organisation"),
            ):
                rows = model.objects.filter(**{way: organisation})
                rows._raw_delete(rows.db)  # type: ignore[attr-defined]
            with connection.cursor() as cursor:
                cursor.execute("delete from people_organisation where id = %s", [organisation])
            self.assertFalse(Organisation.objects.filter(pk=organisation).exists())
            # Another organisation sealed after it: its record knows how many there were.
            self.assertIn("are not here any more", str(self.broken()))
            self.assertIn("it was taken out whole", str(self.broken(handed)))
            transaction.set_rollback(True)

    def test_a_closed_job_without_a_record_is_found(self) -> None:
        job = self.plant.job()
        Job.objects.filter(pk=job.pk).update(state="closed", closed_at=job.opened_at)
        self.assertIn("is closed and has no record", str(self.broken()))

    def test_a_photograph_that_came_after_the_seal_is_told_of_and_set_apart_by_a_lead(self) -> None:
        job = self.jobs[0]
        record = Record.objects.get(job=job)
        with untriggered():
            late = Attachment.objects.create(
                organisation=self.plant.organisation, job=job, path="runs.r1", name="ticket.jpg", kind="image/jpeg", size=1,
                sha256="0" * 64, sent_sha256="0" * 64, who=self.plant.technician,
            )  # fmt: skip
        found = Attachment.objects.filter(job=self.jobs[1]).get()
        said = str(self.broken())
        self.assertIn("“ticket.jpg” came after it was sealed; a lead can set it apart", said)
        url = f"/api/records/{record.id}/late-attachments/{late.id}"
        self.assertEqual(self.send(url, {"why": "came late"}).status_code, 404)
        lead = self.signed_in(self.plant.lead)
        self.assertEqual(self.send(url, {"why": "12"}, lead).status_code, 422)
        view = self.send(url, {"why": "it was on its way while the job was closed"}, lead)
        self.assertEqual(view.status_code, 200, view.content)
        self.assertIsNone(view.json()["fits"])
        self.assertEqual([one["name"] for one in view.json()["late"]], ["ticket.jpg"])
        self.assertEqual(LateAttachment.objects.get().who, self.plant.lead)
        # Its file is not there: that is still said, and nothing else.
        self.assertEqual([one for one in self.broken() if "is gone" not in one], [])
        self.assertIn("was set apart by", str(list(verify())))
        sealed = Record.objects.get(job=self.jobs[1])
        part = self.send(f"/api/records/{sealed.id}/late-attachments/{found.id}", {"why": "no part of it"}, lead)
        self.assertEqual(part.status_code, 409)
