"""The application's settings, with a password hash that does not take the time of a real one."""

import os
import tempfile

from beacon.settings import *  # noqa: F403

# Every run has a folder of its own for files; a server that a test starts is told of the same one.
FILES = os.environ.setdefault("BEACON_FILES", tempfile.mkdtemp(prefix="beacon-files-"))
STORAGES["default"]["OPTIONS"]["location"] = FILES  # noqa: F405

if _template := os.environ.get("BEACON_TEST_TEMPLATE"):
    DATABASES["default"]["TEST"] = {"TEMPLATE": _template}  # noqa: F405

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

MIDDLEWARE = ["tests.underway.counted", *MIDDLEWARE]  # noqa: F405

TEST_RUNNER = "tests.runner.Runner"
REQUEST_LOG = False
LOGGING["loggers"]["django.request"] = {"level": "CRITICAL"}  # noqa: F405
