"""Preferences."""

from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.numbers import whole_number
from brightcircuit.common.posted import status_of
from brightcircuit.shop.forms import MeterForm, PacesForm, PreferencesForm
from brightcircuit.shop.queries import meters_in_use, paces
from brightcircuit.shop.services import OWN, add_meter, retire_meter, set_paces, set_preferences
from brightcore.circuit.instruments import meter_of


def meters(request: HttpRequest) -> HttpResponse:
    """Show the meters of the shop; add one, or retire one."""
    retire = request.POST.get("retire")
    form = MeterForm(request.POST if request.method == "POST" and not retire else None)
    if retire:
        retire_meter(actor=actor(request), meter_id=whole_number(retire, 0))
        return redirect("meters")
    if request.method == "POST" and form.is_valid():
        try:
            add_meter(
                actor=actor(request), title=form.cleaned_data["title"], figures=form.figures()
            )
            messages.success(request, "Saved. Choose it on Trace where the reading is typed.")
            return redirect("meters")
        except ValidationError as error:
            form.add_error(None, error)
    rows = [(meter, meter_of(meter.name)) for meter in meters_in_use()]
    status = status_of(form.errors)
    return render(request, "shop/meters.html", {"form": form, "meters": rows}, status=status)


def tests(request: HttpRequest) -> HttpResponse:
    """Show how long tests take in this shop, and which it does; a shop lead changes it."""
    form = PacesForm(request.POST if request.method == "POST" else None, known=paces())
    if request.method == "POST" and form.is_valid():
        try:
            set_paces(actor=actor(request), paces=form.paces())
            messages.success(request, "Saved. Trace proposes by it from now on.")
            return redirect("shop-tests")
        except ValidationError as error:
            form.add_error(None, error)
        except PermissionDenied as error:
            form.add_error(None, str(error))
    return render(request, "shop/tests.html", {"form": form}, status=status_of(form.errors))


def preferences(request: HttpRequest) -> HttpResponse:
    """Show and store the signed-in person's preferences."""
    form = PreferencesForm(
        request.POST if request.method == "POST" else None, instance=actor(request)
    )
    if request.method == "POST" and form.is_valid():
        set_preferences(actor=actor(request), values=form.cleaned_data)
        messages.success(request, "Saved.")
        return redirect("preferences")
    choices = [form[name] for name in OWN if name != "single_key_shortcuts"]
    context = {"form": form, "choices": choices}
    return render(request, "shop/preferences.html", context, status=status_of(form.errors))
