"""App configuration."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """The app `jobs`."""

    name = "brightcircuit.jobs"

    def ready(self) -> None:
        """Let the open job of a bike follow what is edited on the describing pages."""
        from brightcircuit.bikes.services import follow_edits, guard_edits, note_edits
        from brightcircuit.jobs.descriptions import edit_note, follow_edit
        from brightcircuit.jobs.quarantine import guard_marks

        follow_edits(follow_edit)
        guard_edits(guard_marks)
        note_edits(edit_note)
