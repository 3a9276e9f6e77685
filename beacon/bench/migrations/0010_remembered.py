"""Which places of a job the visit before filled, and when that was."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("bench", "0009_how_it_moved"),
    ]

    operations = [
        migrations.AddField(
            model_name="job",
            name="remembered",
            field=models.JSONField(blank=True, default=dict),
        ),
    ]
