"""The application's settings, with a password hash that does not take the time of a real one."""

from beacon.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]

LOGGING["loggers"]["django.request"] = {"level": "CRITICAL"}  # noqa: F405
