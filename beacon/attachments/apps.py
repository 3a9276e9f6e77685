"""Photographs and papers that people attach."""

from django.apps import AppConfig


class AttachmentsConfig(AppConfig):
    name = "beacon.attachments"
    label = "papers"
    """What its tables and migrations were called when there were first any; databases of before know it so."""
