"""Quarantines that stood in the rows of arrivals become rows of their own: none is lost."""

from typing import Any

from django.db import migrations

QUESTIONS = {
    "swollen": "Swollen, bulging or cracked?",
    "hot": "Warm or hot by itself?",
    "wet": "Wet inside, or has been under water?",
    "dropped": "Dropped, crushed or crashed?",
    "smell": "Sweet or solvent smell, hissing, leaking?",
    "low": "Far below its voltage window?",
}


def take_over(apps: Any, schema_editor: Any) -> None:
    arrivals = apps.get_model("arrive", "Arrival")
    quarantines = apps.get_model("jobs", "Quarantine")
    for arrival in arrivals.objects.select_related("job__revision", "job__opened_by"):
        why = [words for name, words in QUESTIONS.items() if arrival.triage.get(name)]
        if not why or arrival.lifted_reason:
            continue
        job = arrival.job
        quarantines.objects.create(
            bike_id=job.revision.bike_id,
            marks=[],
            job=job,
            why=why,
            begun=job.opened,
            begun_by_name=job.opened_by.username,
        )


class Migration(migrations.Migration):
    dependencies = (("jobs", "0004_logentry_imported_quarantine"), ("arrive", "0005_waiver_imported"), ("bikes", "0003_revision_words_contact"))
    operations = (migrations.RunPython(take_over, migrations.RunPython.noop),)
