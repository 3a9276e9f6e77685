from django.db import migrations, models
from django.db.models.functions import Now


class Migration(migrations.Migration):
    """When it was kept: unknown of what is there already, so no row is written."""

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
    ]
