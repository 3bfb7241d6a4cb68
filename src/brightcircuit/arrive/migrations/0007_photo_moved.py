"""Photos have moved to `jobs`; the table stays."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("arrive", "0006_arrival_wire_places"), ("jobs", "0013_photo_moved")]
    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[migrations.DeleteModel(name="Photo")]),
    ]
