"""The application's settings, with a password hash that does not take the time of a real one."""

import os
import tempfile

from beacon.settings import *  # noqa: F403

# Every run has a folder of its own for files; a server that a test starts is told of the same one.
FILES = os.environ.setdefault("BEACON_FILES", tempfile.mkdtemp(prefix="beacon-files-"))
STORAGES["default"]["OPTIONS"]["location"] = FILES  # noqa: F405

if _template := os.environ.get("BEACON_TEST_TEMPLATE"):
    DATABASES["default"]["TEST"] = {"TEMPLATE": _template}  # noqa: F405

if "pool" not in DATABASES["default"]["OPTIONS"]:  # noqa: F405
    # A connection of a browser keeps that of the database: to begin one anew takes longer than most that is asked.
    DATABASES["default"] |= {"CONN_MAX_AGE": None, "CONN_HEALTH_CHECKS": True}  # noqa: F405

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

MIDDLEWARE = ["tests.underway.counted", *MIDDLEWARE]  # noqa: F405

TEST_RUNNER = "tests.runner.Runner"
REQUEST_LOG = False
LOGGING["loggers"]["django.request"] = {"level": "CRITICAL"}  # noqa: F405
