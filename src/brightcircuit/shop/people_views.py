"""Pages of the people of the shop, of the shop itself, and of its very first start."""

from copy import copy

from django.contrib import messages
from django.contrib.auth import login, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import PermissionDenied, ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from brightcircuit.common.actor import actor
from brightcircuit.common.legal import known_places
from brightcircuit.common.posted import Act, Posted, act_on, status_of
from brightcircuit.shop.first_run import forget_code, is_local, is_right
from brightcircuit.shop.forms import FirstLeadForm, NewPersonForm, PasswordForm, ShopForm
from brightcircuit.shop.models import Person, Role
from brightcircuit.shop.people import (
    add_person,
    change_password,
    is_empty,
    make_first_lead,
    reset_password,
    set_active,
    set_role,
    set_shop,
    the_shop,
)
from brightcircuit.shop.zones import city_of, zones

BACKEND = "django.contrib.auth.backends.ModelBackend"


@login_not_required
def start(request: HttpRequest) -> HttpResponse:
    """Make the first shop lead, once; from elsewhere only with the printed code."""
    if not is_empty():
        return redirect("bench")
    needs_code = not is_local(request)
    form = FirstLeadForm(request.POST or None, needs_code=needs_code)
    if request.method == "POST" and form.is_valid():
        if needs_code and not is_right(form.cleaned_data["code"]):
            form.add_error("code", "That is not the code that was printed when the server started.")
        else:
            try:
                data = form.cleaned_data
                person = make_first_lead(name=data["name"], password=data["password"])
                forget_code()
                login(request, person, backend=BACKEND)
                return redirect("shop")
            except ValidationError as error:
                form.add_error(None, error)
    return render(request, "shop/start.html", {"form": form}, status=status_of(form.errors))


def shop_page(request: HttpRequest) -> HttpResponse:
    """Show and store what is known of the shop."""
    # A form writes what was typed into its row, refused or not: it gets one of its own.
    shop = copy(the_shop())
    fresh = shop.pk is None
    form = ShopForm(request.POST if request.method == "POST" else None, instance=shop)
    if request.method == "POST" and form.is_valid():
        try:
            set_shop(actor=actor(request), values=form.cleaned_data)
            messages.success(request, "Saved.")
            return redirect("bikes-first" if fresh else "shop")
        except (ValidationError, PermissionDenied) as error:
            form.add_error(None, str(error) if isinstance(error, PermissionDenied) else error)
    context = {
        "form": form,
        "fresh": fresh,
        "zones": [(zone, city_of(zone)) for zone in zones()],
        "places": known_places(),
    }
    return render(request, "shop/shop.html", context, status=status_of(form.errors))


def people(request: HttpRequest) -> HttpResponse:
    """Show the people of the shop; a shop lead adds one, or changes what one may do."""
    action = request.POST.get("do", "")
    form = NewPersonForm(request.POST if action == "add" else None)
    error = ""
    if action:
        try:
            if action != "add":
                return _change(request, action)
            if form.is_valid():
                data = form.cleaned_data
                made = add_person(
                    actor=actor(request),
                    name=data["name"],
                    password=data["password"],
                    role=data["role"],
                )
                messages.success(request, f"{made} can sign in, and then chooses a password.")
                return redirect("people")
        except ValidationError as problem:
            error = _tell(form, problem, action)
        except PermissionDenied as problem:
            error = str(problem)
    rows = Person.objects.order_by("-is_active", "username")
    context = {"form": form, "rows": rows, "roles": Role.choices, "error": error}
    return render(request, "shop/people.html", context, status=status_of(error or form.errors))


def _tell(form: NewPersonForm, problem: ValidationError, action: str) -> str:
    if action == "add":
        form.add_error(None, problem)
        return ""
    return " ".join(problem.messages)


def _role(posted: Posted, person: Person) -> str:
    set_role(actor=posted.who, person=person, role=posted.text("role"))
    return f"{person} is now {person.get_role_display().lower()}."


def _on(posted: Posted, person: Person) -> str:
    set_active(actor=posted.who, person=person, active=True)
    return f"{person} can sign in again."


def _off(posted: Posted, person: Person) -> str:
    set_active(actor=posted.who, person=person, active=False)
    return f"{person} cannot sign in any more; the record stays."


def _password(posted: Posted, person: Person) -> str:
    reset_password(actor=posted.who, person=person, password=posted.text("password"))
    return f"{person} signs in with the new password, and then chooses one."


ACTS: dict[str, Act[Person]] = {"role": _role, "on": _on, "off": _off, "password": _password}
"""Every act about somebody who is known, by the word that its form sends."""


def _change(request: HttpRequest, action: str) -> HttpResponse:
    person = get_object_or_404(Person, pk=request.POST.get("person") or 0)
    messages.success(request, act_on(ACTS, action, Posted(request), person))
    return redirect("people")


def password(request: HttpRequest) -> HttpResponse:
    """Change one's own password."""
    form = PasswordForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            data = form.cleaned_data
            person = actor(request)
            change_password(actor=person, old=data["old"], password=data["password"])
            update_session_auth_hash(request, person)
            messages.success(request, "Your password is changed.")
            return redirect("preferences")
        except ValidationError as error:
            form.add_error(None, error)
    return render(request, "shop/password.html", {"form": form}, status=status_of(form.errors))
