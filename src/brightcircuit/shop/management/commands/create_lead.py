"""Make the first lead of a real installation."""

import getpass
from argparse import ArgumentParser
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError

from brightcircuit.shop.models import Person, Role
from brightcircuit.shop.upgrade import bring_up_to_date


class Command(BaseCommand):
    """Ask for a password and create a person."""

    help = "Create a shop lead (or with --technician a technician)."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--technician", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        bring_up_to_date(self.stdout.write)
        known = Person.objects.filter(username__iexact=options["name"]).first()
        if known is not None and known.is_active and known.has_usable_password():
            raise CommandError("There is a person of that name already, who can sign in.")
        password = getpass.getpass("Password: ")
        try:
            validate_password(password, known or Person(username=options["name"]))
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        if password != getpass.getpass("Again: "):
            raise CommandError("The two passwords differ; nothing was made.")
        if options["technician"]:
            role = Role.TECHNICIAN
        else:
            role = Role.LEAD
        if known is not None:
            # After an archive came in nobody can sign in: who has the machine takes over a name.
            known.set_password(password)
            known.role, known.is_active, known.must_change = role, True, False
            known.save()
            self.stdout.write(f"{known} is known here, and can sign in again.")
        else:
            Person.objects.create_user(options["name"], password=password, role=role)
        self.stdout.write(f"{options['name']} can sign in as {role.label.lower()}.")
