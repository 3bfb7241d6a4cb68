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
        if Person.objects.filter(username=options["name"]).exists():
            raise CommandError("There is a person of that name already.")
        password = getpass.getpass("Password: ")
        try:
            validate_password(password, Person(username=options["name"]))
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        if password != getpass.getpass("Again: "):
            raise CommandError("The two passwords differ; nothing was made.")
        if options["technician"]:
            role = Role.TECHNICIAN
        else:
            role = Role.LEAD
        Person.objects.create_user(options["name"], password=password, role=role)
        self.stdout.write(f"{options['name']} can sign in as {role.label.lower()}.")
