"""Photographs and papers in a bucket: kept, looked at, found changed or gone, and a bucket that is away."""

import logging
import uuid
from typing import Any
from unittest import mock

import boto3
from botocore.config import Config
from django.test import override_settings
from moto.server import ThreadedMotoServer

from beacon.attachments.keeping import file_of, kept_at, why_gone
from beacon.attachments.models import Attachment
from tests.server.pictures import photograph
from tests.server.plant import PlantTestCase

BUCKET = "beacon-papers"
QUICK = Config(connect_timeout=1, retries={"max_attempts": 0})
KEYS = {"AWS_ACCESS_KEY_ID": "a-key", "AWS_SECRET_ACCESS_KEY": "a-secret", "AWS_DEFAULT_REGION": "eu-north-1"}


class InABucket(PlantTestCase):
    """A store that speaks S3, on loopback."""

    server: ThreadedMotoServer
    url: str

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.server = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
        logging.getLogger("werkzeug").setLevel(logging.ERROR)
        cls.server.start()
        host, port = cls.server.get_host_and_port()
        cls.url = f"http://{host}:{port}"
        cls.enterClassContext(mock.patch.dict("os.environ", KEYS))
        cls.bucket: Any = boto3.resource("s3", endpoint_url=cls.url).Bucket(BUCKET)
        cls.bucket.create(CreateBucketConfiguration={"LocationConstraint": "eu-north-1"})

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        super().tearDownClass()

    def setUp(self) -> None:
        super().setUp()
        self.use(self.url)
        self.job = self.plant.job()

    def use(self, url: str) -> None:
        given = {"bucket_name": BUCKET, "endpoint_url": url, "region_name": "eu-north-1", "file_overwrite": True}
        given["client_config"] = None if url == self.url else QUICK
        storages = {
            "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
            "default": {"BACKEND": "storages.backends.s3.S3Storage", "OPTIONS": {k: v for k, v in given.items() if v}},
        }
        self.enterContext(override_settings(STORAGES=storages))

    def add(self, content: bytes) -> Any:
        url = f"/api/jobs/{self.job.id}/attachments?path=runs.r1&id={uuid.uuid4()}"
        return self.client.post(url, content, content_type="image/jpeg")

    def kept(self) -> Attachment:
        answer = self.add(photograph())
        self.assertEqual(answer.status_code, 201, answer.content)
        return Attachment.objects.get(id=answer.json()["id"])

    def names(self) -> set[str]:
        return {one.key for one in self.bucket.objects.all()}

    def test_a_photograph_lies_under_its_hash_and_is_looked_at(self) -> None:
        one = self.kept()
        name = kept_at(one.organisation_id, one.sha256)
        self.assertIn(name, self.names())
        self.assertIn(f"{name}.small", self.names())
        shown = self.client.get(f"/api/attachments/{one.id}/file")
        self.assertEqual((shown.status_code, shown.content), (200, file_of(one)))
        self.assertEqual(self.client.get(f"/api/attachments/{one.id}/small").status_code, 200)
        self.assertEqual(why_gone(one), "")

    def test_the_same_sent_again_is_the_same_file(self) -> None:
        first = self.kept()
        before = self.names()
        self.assertEqual(self.add(photograph()).json()["id"], str(first.id))
        self.assertEqual(self.names(), before)

    def test_a_file_that_is_changed_or_gone_is_said_and_one_that_is_sent_again_is_put_right(self) -> None:
        one = self.kept()
        lies = self.bucket.Object(kept_at(one.organisation_id, one.sha256))
        whole = file_of(one)
        lies.put(Body=b"half a pic")
        self.assertIn("was changed", why_gone(one))
        lies.delete()
        self.assertIn("is gone", why_gone(one))
        self.assertEqual(self.client.get(f"/api/attachments/{one.id}/file").status_code, 410)
        other = self.plant.job()
        url = f"/api/jobs/{other.id}/attachments?path=runs.r1"
        self.assertEqual(self.client.post(url, photograph(), content_type="image/jpeg").status_code, 201)
        self.assertEqual(file_of(one), whole)
        self.assertEqual(why_gone(one), "")

    def test_a_bucket_that_is_away_keeps_nothing_and_says_so(self) -> None:
        self.use("http://127.0.0.1:9")
        answer = self.add(photograph())
        self.assertEqual(answer.status_code, 507)
        self.assertIn("sent again", answer.json()["detail"])
        self.assertFalse(Attachment.objects.exists())
