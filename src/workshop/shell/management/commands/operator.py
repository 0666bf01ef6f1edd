"""Make somebody who may sign in, or give them another role or password."""

import getpass
import os
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management.base import BaseCommand, CommandError, CommandParser

from workshop.shell.roles import ROLES


class Command(BaseCommand):
    """``operator NAME --role burns``; the password is asked for, or OPERATOR_PASSWORD."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Take a name and a role."""
        parser.add_argument("name", nargs="?", default="")
        parser.add_argument("--role", choices=ROLES, default="burns")
        parser.add_argument("--remove", action="store_true", help="may sign in no more")
        parser.add_argument("--list", action="store_true", help="list who may sign in")

    def handle(self, *_: Any, **options: Any) -> None:
        """Make or change the user."""
        if options["list"]:
            self.stdout.write(_listed())
            return
        name, role = options["name"].strip(), options["role"]
        if not name:
            raise CommandError("Give a name.")
        users = get_user_model().objects
        user = users.filter(username=name).first()
        if options["remove"]:
            if user is None:
                raise CommandError(f"There is no {name}.")
            user.is_active = False
            user.save(update_fields=["is_active"])
            self.stdout.write(f"{name} may sign in no more.")
            return
        password = os.environ.get("OPERATOR_PASSWORD") or getpass.getpass()
        try:
            validate_password(password)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        user = user or users.model(username=name)
        user.set_password(password)
        user.is_active = True
        user.save()
        user.groups.set([Group.objects.get_or_create(name=role)[0]])
        self.stdout.write(f"{name} {role}.")


def _listed() -> str:
    users = get_user_model().objects.filter(is_active=True).order_by("username")
    lines = [
        f"{user.get_username()} {' '.join(user.groups.values_list('name', flat=True))}"
        for user in users
    ]
    return "\n".join(lines) or "Nobody may sign in from other computers yet."
