"""Repairs are rows of a job that several stations look at: they move from `record` to `jobs`, the table
stays."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0002_initial"),
        ("record", "0002_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]
    state_operations = [
        migrations.CreateModel(
            name="Repair",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("round", models.PositiveIntegerField()),
                ("repair", models.CharField(max_length=120)),
                ("action", models.TextField()),
                ("fault", models.CharField(blank=True, max_length=200)),
                ("fault_class", models.CharField(blank=True, db_index=True, max_length=80)),
                ("root_cause", models.TextField(blank=True)),
                ("proof_title", models.TextField(blank=True)),
                ("proof_expected", models.TextField(blank=True)),
                ("proof", models.CharField(
                    blank=True,
                    choices=[("", "Not proved yet"), ("passed", "Passed"), ("failed", "Failed")],
                    default="",
                    max_length=10,
                )),
                ("at", models.DateTimeField()),
                ("by_name", models.CharField(max_length=150)),
                ("by", models.ForeignKey(
                    on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL
                )),
                ("job", models.ForeignKey(
                    on_delete=django.db.models.deletion.PROTECT, related_name="repairs", to="jobs.job"
                )),
            ],
            options={"ordering": ("round", "id"), "db_table": "record_repair"},
        ),
    ]
    operations = [migrations.SeparateDatabaseAndState(state_operations=state_operations)]
