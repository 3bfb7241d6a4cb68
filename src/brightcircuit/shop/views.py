"""Preferences."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.shop.forms import PreferencesForm
from brightcircuit.shop.services import set_preferences


def preferences(request: HttpRequest) -> HttpResponse:
    """Show and store the signed-in person's preferences."""
    form = PreferencesForm(request.POST if request.method == "POST" else None, instance=actor(request))
    if request.method == "POST" and form.is_valid():
        set_preferences(actor=actor(request), single_key_shortcuts=form.cleaned_data["single_key_shortcuts"])
        messages.success(request, "Kept.")
        return redirect("preferences")
    return render(request, "shop/preferences.html", {"form": form})
