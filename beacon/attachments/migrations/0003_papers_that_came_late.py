import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models

FORBID = """
create trigger append_only before update or delete on papers_latepaper
  for each row execute function beacon_refuse_change();
create function beacon_refuse_late_paper() returns trigger language plpgsql as $$
begin
  if new.job_id is not null then
    -- Waits for whoever closes the job, and looks at it as it is then.
    perform 1 from bench_job where id = new.job_id and state not in ('closed', 'abandoned') for share;
    if not found then
      raise exception 'a closed job takes no more papers: % is refused', tg_op;
    end if;
  end if;
  return new;
end $$;
create trigger none_after_the_seal before insert or update on papers_paper
  for each row execute function beacon_refuse_late_paper();
"""
ALLOW = """
drop trigger none_after_the_seal on papers_paper;
drop function beacon_refuse_late_paper();
drop trigger append_only on papers_latepaper;
"""


class Migration(migrations.Migration):
    """No paper comes into a job after its seal; one that did before is set apart by a lead, on the record."""

    dependencies = [
        ("papers", "0002_papers_stay_what_they_are"),
        ("bench", "0007_raw_line"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="LatePaper",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("why", models.CharField(max_length=300)),
                ("at", models.DateTimeField(default=django.utils.timezone.now)),
                (
                    "paper",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.PROTECT, related_name="late", to="papers.paper"
                    ),
                ),
                (
                    "who",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
        ),
        migrations.RunSQL(FORBID, ALLOW),
    ]
