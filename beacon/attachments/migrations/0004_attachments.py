"""Papers are called attachments; their tables stay, and so do the triggers on them."""

import django.db.models.deletion
from django.db import migrations, models

PROTECT = django.db.models.deletion.PROTECT


class Migration(migrations.Migration):
    dependencies = [("papers", "0003_papers_that_came_late")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.RenameModel("Paper", "Attachment"),
                migrations.AlterModelTable("attachment", "papers_paper"),
                migrations.RenameModel("LatePaper", "LateAttachment"),
                migrations.AlterModelTable("lateattachment", "papers_latepaper"),
                migrations.RenameField("lateattachment", "paper", "attachment"),
                migrations.AlterField(
                    "lateattachment",
                    "attachment",
                    models.OneToOneField("papers.attachment", db_column="paper_id", related_name="late", on_delete=PROTECT),
                ),
                migrations.AlterField(
                    "attachment",
                    "job",
                    models.ForeignKey(
                        "bench.job", blank=True, null=True, related_name="attachments", on_delete=PROTECT
                    ),
                ),
                migrations.AlterField(
                    "attachment",
                    "organisation",
                    models.ForeignKey("people.organisation", related_name="attachments", on_delete=PROTECT),
                ),
                migrations.AlterField(
                    "attachment",
                    "reference",
                    models.ForeignKey(
                        "plant.reference", blank=True, null=True, related_name="attachments", on_delete=PROTECT
                    ),
                ),
            ]
        )
    ]
