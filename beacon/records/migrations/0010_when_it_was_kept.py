from django.contrib.postgres.operations import AddIndexConcurrently
from django.db import migrations, models
from django.db.models.functions import Coalesce, Now


class Migration(migrations.Migration):
    """When it was kept: unknown of what is there already, so no row is written; the index is made beside those who work."""

    atomic = False
    dependencies = [("records", "0009_fewer_indexes")]

    operations = [
        migrations.AddField("record", "kept_at", models.DateTimeField(null=True, editable=False)),
        migrations.AlterField("record", "kept_at", models.DateTimeField(null=True, editable=False, db_default=Now())),
        AddIndexConcurrently(
            "record",
            models.Index("organisation", Coalesce("kept_at", "sealed_at"), name="records_as_they_were_kept"),
        ),
    ]
