"""The organisation that somebody chose, and how often something was asked for, under plain names."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("people", "0005_invitation")]

    operations = [
        migrations.RenameField("person", "at_hand", "chosen"),
        migrations.RenameModel("Spent", "RateCount"),
    ]
