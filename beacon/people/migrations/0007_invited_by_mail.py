from typing import Any

import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


def addresses(apps: Any, schema_editor: Any) -> None:
    for one in apps.get_model("people", "Invitation").objects.select_related("person"):
        one.address = one.person.username
        one.save(update_fields=["address"])


class Migration(migrations.Migration):
    dependencies = [("people", "0006_plain_names"), ("plant", "0008_limits_of_looks")]

    operations = [
        migrations.AddField("organisation", "second_factor", models.CharField(blank=True, choices=[("", "nobody"), ("leads", "its leads"), ("all", "everybody")], db_default="", default="", max_length=5)),
        migrations.AddField("invitation", "address", models.CharField(db_default="", max_length=150)),
        migrations.AddField("invitation", "name", models.CharField(blank=True, db_default="", max_length=120)),
        migrations.AddField("invitation", "secret_sha256", models.CharField(blank=True, db_default="", max_length=64)),
        migrations.AddField("invitation", "until", models.DateTimeField(blank=True, null=True)),
        migrations.AddField("invitation", "used_at", models.DateTimeField(blank=True, null=True)),
        migrations.AlterField("invitation", "at", models.DateTimeField(default=django.utils.timezone.now)),
        migrations.AlterField("invitation", "person", models.ForeignKey(blank=True, null=True, on_delete=models.CASCADE, related_name="invitations", to=settings.AUTH_USER_MODEL)),
        migrations.RunPython(addresses, migrations.RunPython.noop),
        migrations.RemoveConstraint("invitation", "one_invitation_of_a_person"),
        migrations.AddConstraint("invitation", models.UniqueConstraint(fields=["address", "organisation"], condition=models.Q(used_at=None), name="one_invitation_of_an_address")),
    ]
