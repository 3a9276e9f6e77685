from django.db import migrations, models
from django.db.models.functions import Now


class Migration(migrations.Migration):
    """When it was kept: unknown of what is there already, so no row is written."""

    dependencies = [("records", "0009_fewer_indexes")]

    operations = [
        migrations.AddField("record", "kept_at", models.DateTimeField(null=True, editable=False)),
        migrations.AlterField("record", "kept_at", models.DateTimeField(null=True, editable=False, db_default=Now())),
    ]
