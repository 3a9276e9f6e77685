from django.contrib.postgres.operations import AddIndexConcurrently
from django.db import migrations, models
from django.db.models.functions import Coalesce, Now


class Migration(migrations.Migration):
    """When it was kept: unknown of what is there already, so no row is written; the index is made beside those who work."""

    atomic = False
    dependencies = [("plant", "0008_limits_of_looks")]

    operations = [
        *(
            migrations.AddField(model, "kept_at", models.DateTimeField(null=True, editable=False))
            for model in ("event", "fault")
        ),
        *(
            migrations.AlterField(model, "kept_at", models.DateTimeField(null=True, editable=False, db_default=Now()))
            for model in ("event", "fault")
        ),
        AddIndexConcurrently("event", models.Index(Coalesce("kept_at", "at"), name="events_as_they_were_kept")),
        AddIndexConcurrently("fault", models.Index(Coalesce("kept_at", "at"), name="faults_as_they_were_kept")),
    ]
