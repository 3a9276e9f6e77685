"""Tests of the core. Hypothesis draws the same cases each time, so that a run says what the one before said."""

from hypothesis import settings

settings.register_profile("the same each time", derandomize=True, deadline=None)
settings.load_profile("the same each time")
