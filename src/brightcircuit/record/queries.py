"""What this shop has confirmed."""

from django.db.models import Count

from brightcircuit.record.models import Repair


def confirmed_counts() -> dict[str, int]:
    """Return how often a proved repair confirmed a fault of each class."""
    rows = Repair.objects.filter(proof=Repair.Proof.PASSED).exclude(fault_class="")
    return dict(rows.values_list("fault_class").annotate(n=Count("id")).values_list("fault_class", "n"))
