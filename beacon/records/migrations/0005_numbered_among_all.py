from typing import Any

from django.db import migrations, models


def count(apps: Any, schema_editor: Any) -> None:
    """Begins the count of all records with those that are there."""
    records = apps.get_model("records", "Record").objects.count()
    apps.get_model("records", "SealCount").objects.create(pk=1, count=records)


class Migration(migrations.Migration):
    """Records are numbered among all of a database, so that an organisation taken out whole is missed."""

    dependencies = [("records", "0004_put_right_and_walked")]

    operations = [
        migrations.CreateModel(
            name="SealCount",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("count", models.PositiveBigIntegerField(default=0)),
            ],
        ),
        migrations.CreateModel(
            name="Restored",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField(auto_now_add=True)),
                ("by", models.CharField(max_length=120)),
                ("file", models.CharField(max_length=300)),
                ("why", models.CharField(max_length=300)),
                ("breaks", models.JSONField(default=list)),
            ],
            options={"ordering": ["-at"]},
        ),
        migrations.AddField(
            model_name="record",
            name="serial",
            field=models.PositiveBigIntegerField(blank=True, null=True, unique=True),
        ),
        migrations.AddField(
            model_name="walk", name="breaks", field=models.JSONField(blank=True, default=list)
        ),
        migrations.RunPython(count, migrations.RunPython.noop),
    ]
