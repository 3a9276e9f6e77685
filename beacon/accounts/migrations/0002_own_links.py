import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0001_initial"), ("socialaccount", "0006_alter_socialaccount_extra_data")]

    operations = [
        migrations.CreateModel(
            name="OwnLink",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField(auto_now_add=True)),
                (
                    "account",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="own",
                        to="socialaccount.socialaccount",
                    ),
                ),
            ],
        ),
    ]
