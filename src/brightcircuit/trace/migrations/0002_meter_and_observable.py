"""A reading names its meter; what is seen may be of a part with a long id."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("trace", "0001_initial")]
    operations = [
        migrations.AddField("entry", "meter", models.CharField(blank=True, max_length=40)),
        migrations.AlterField("entry", "observable", models.CharField(blank=True, max_length=80)),
    ]
