"""Photos are rows of a job that several stations show: they move from `arrive` to `jobs`, the table stays."""

import uuid

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0012_plan"),
        ("arrive", "0006_arrival_wire_places"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]
    state_operations = [
        migrations.CreateModel(
            name="Photo",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("uuid", models.UUIDField(default=uuid.uuid4, editable=False, unique=True)),
                ("caption", models.CharField(blank=True, max_length=200)),
                ("size", models.PositiveIntegerField()),
                ("sha256", models.CharField(max_length=64)),
                ("at", models.DateTimeField()),
                ("by_name", models.CharField(max_length=150)),
                ("by", models.ForeignKey(
                    on_delete=django.db.models.deletion.PROTECT, to=settings.AUTH_USER_MODEL
                )),
                ("job", models.ForeignKey(
                    on_delete=django.db.models.deletion.PROTECT, related_name="all_photos", to="jobs.job"
                )),
            ],
            options={"ordering": ("id",), "db_table": "arrive_photo"},
        ),
    ]
    operations = [migrations.SeparateDatabaseAndState(state_operations=state_operations)]
