"""What was called a walk along the chain is called a verification of it."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0006_plain_names"), ("records", "0005_numbered_among_all")]

    operations = [
        migrations.RenameModel("Walk", "Verification"),
        migrations.AlterField(
            "verification",
            "organisation",
            models.ForeignKey(
                "people.organisation", related_name="verifications", on_delete=django.db.models.deletion.CASCADE
            ),
        ),
    ]
