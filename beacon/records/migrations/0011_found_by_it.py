from django.db import migrations, models
from django.db.models.functions import Coalesce

from beacon.database.operations import IndexBeside


class Migration(migrations.Migration):
    atomic = False
    dependencies = [("records", "0010_when_it_was_kept")]

    operations = [
        IndexBeside(
            "record",
            models.Index("organisation", Coalesce("kept_at", "sealed_at"), name="records_as_they_were_kept"),
        ),
    ]
