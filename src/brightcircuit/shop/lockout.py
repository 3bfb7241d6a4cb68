"""What somebody sees who has typed wrong passwords too often."""

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone


def locked(request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
    """Say until when that name is locked from that place; nobody else is."""
    until = timezone.localtime(timezone.now() + timedelta(hours=settings.AXES_COOLOFF_TIME))
    return render(request, "429.html", {"until": until}, status=429)
