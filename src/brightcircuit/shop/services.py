"""Changes to what the shop reads with and how long it takes, and to how a person sees the pages."""

from collections.abc import Mapping, Sequence

from django.core.exceptions import ValidationError
from django.db import transaction

from brightcircuit.common.permissions import require_active, require_lead, require_signed_in
from brightcircuit.shop.models import Meter, Pace, Person
from brightcore.circuit.instruments import own_meter_name
from brightcore.errors import ReadingError
from brightcore.tracing.terms import SLOWEST


@transaction.atomic
def add_meter(*, actor: Person, title: str, figures: Sequence[float]) -> Meter:
    """Store a meter of the shop. Raises ValidationError where a figure cannot be or the name is
    taken."""
    require_active(actor)
    try:
        name = own_meter_name(title, figures)
    except ReadingError as error:
        raise ValidationError(str(error)) from None
    if Meter.objects.filter(title=title.strip(), retired=False).exists():
        raise ValidationError(f"There is a meter {title.strip()!r} already.")
    meter, _ = Meter.objects.update_or_create(
        title=title.strip(), defaults={"name": name, "retired": False}
    )
    return meter


@transaction.atomic
def retire_meter(*, actor: Person, meter_id: int) -> None:
    """Offer a meter no more; its readings keep its figures."""
    require_active(actor)
    Meter.objects.filter(pk=meter_id).update(retired=True)
    Person.objects.filter(meter_id=meter_id).update(meter=None)


@transaction.atomic
def use_meter(*, actor: Person, meter_id: int | None) -> Meter | None:
    """Remember what a person reads with; None for the usual handheld meter."""
    require_active(actor)
    if meter_id:
        meter = Meter.objects.filter(pk=meter_id, retired=False).first()
    else:
        meter = None
    if actor.meter_id != (meter.pk if meter else None):
        actor.meter = meter
        actor.save(update_fields=["meter"])
    return meter


@transaction.atomic
def set_paces(*, actor: Person, paces: Mapping[str, tuple[float, bool]]) -> None:
    """Store (times the usual minutes, whether it is done here) by kind of test; only a shop lead.

    Raises ValidationError, naming the kind, for a factor that cannot be."""
    require_lead(actor)
    for kind, (factor, _) in paces.items():
        if not 1 / SLOWEST <= factor <= SLOWEST:
            raise ValidationError(
                {kind: f"Between {1 / SLOWEST:g} and {SLOWEST:g} times the usual minutes."}
            )
    for kind, (factor, done_here) in paces.items():
        Pace.objects.update_or_create(
            kind=kind, defaults={"factor": factor, "done_here": done_here}
        )


OWN = ("theme", "units", "decimal", "dates", "text_size", "single_key_shortcuts")
"""What a person decides about the pages that they see."""


@transaction.atomic
def set_preferences(*, actor: Person, values: Mapping[str, object]) -> None:
    """Store a person's own preferences, by the names in `OWN`; a learner has them too."""
    require_signed_in(actor)
    for name in OWN:
        setattr(actor, name, values[name])
    actor.save(update_fields=OWN)
