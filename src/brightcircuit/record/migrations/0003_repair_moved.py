"""Repairs have moved to `jobs`; the table stays."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("record", "0002_initial"), ("jobs", "0003_repair")]
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[migrations.DeleteModel(name="Repair")]),
    ]
