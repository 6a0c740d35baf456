"""`manage.py make_user NAME ROLE`: a person, with a password from the environment or asked for."""

import getpass
import os
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from normant.accounts.models import User
from normant.accounts.permissions import Role


class Command(BaseCommand):
    help = "Add a person. The password is read from NORMANT_PASSWORD, else asked for."

    def add_arguments(self, parser: CommandParser) -> None:
        """NAME ROLE [--seat SEAT]."""
        parser.add_argument("name")
        parser.add_argument("role", choices=[role.value for role in Role])
        parser.add_argument("--seat", default="", help="an editor's own seat")

    def handle(self, name: str, role: str, seat: str, **options: Any) -> None:
        """Refuses a weak password, and a name that is taken."""
        if User.objects.filter(username=name).exists():
            raise CommandError(f"{name} is there already")
        password = os.environ.get("NORMANT_PASSWORD") or getpass.getpass()
        try:
            validate_password(password)
        except ValidationError as fault:
            raise CommandError(" ".join(fault.messages)) from fault
        User.objects.create_user(name, password=password, role=role, seat=seat)
        self.stdout.write(f"{name} may sign in as {role}")
