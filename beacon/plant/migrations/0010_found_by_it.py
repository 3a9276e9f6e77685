from django.db import migrations, models
from django.db.models.functions import Coalesce

from beacon.database.operations import IndexBeside


class Migration(migrations.Migration):
    atomic = False
    dependencies = [("plant", "0009_when_it_was_kept")]

    operations = [
        IndexBeside("event", models.Index(Coalesce("kept_at", "at"), name="events_as_they_were_kept")),
        IndexBeside("fault", models.Index(Coalesce("kept_at", "at"), name="faults_as_they_were_kept")),
    ]
