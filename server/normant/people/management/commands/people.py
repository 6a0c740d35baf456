"""`manage.py people`: what the page of that name does, for whoever has a shell on the server."""

import argparse
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from normant.accounts.models import User
from normant.accounts.permissions import Role, Scope
from normant.common.problems import Problem

from ...services.people import (
    Place,
    add_person,
    change_person,
    disable_person,
    enable_person,
    end_sessions,
    offer_link,
    seen_person,
)
from ...services.tokens import make_token, withdraw_token

ACTOR = "server"


class Command(BaseCommand):
    help = "People: list, add, link, change, disable, enable, end-sessions, token, withdraw-token."

    def add_arguments(self, parser: CommandParser) -> None:
        """What is done, and to whom."""
        acts = parser.add_subparsers(dest="act", required=True)
        acts.add_parser("list", help="who there is")
        for act, about in (
            ("add", "somebody new; prints the link by which they set a password"),
            ("change", "another role or seat"),
        ):
            made = _of_person(acts, act, about)
            made.add_argument("role", choices=[role.value for role in Role])
            made.add_argument("--seat", default="", help="an editor's own seat")
        for act, about in (
            ("link", "another link to set a password"),
            ("disable", "nothing lets them in any more"),
            ("enable", "they may sign in again"),
            ("end-sessions", "they sign in again everywhere"),
        ):
            _of_person(acts, act, about)
        token = _of_person(acts, "token", "a token for a script; it is shown once")
        token.add_argument("label")
        token.add_argument("--scope", choices=[scope.value for scope in Scope], default=Scope.READ.value)
        token.add_argument("--days", type=int, default=90)
        _of_person(acts, "withdraw-token", "end a token").add_argument("number", type=int)

    def handle(self, act: str, name: str = "", **options: Any) -> None:
        """Exit 1 with the reason where it is not done."""
        try:
            self._act(act, name, **options)
        except Problem as problem:
            raise CommandError(problem.detail) from problem

    def _act(self, act: str, name: str, **options: Any) -> None:
        match act:
            case "list":
                for user in User.objects.order_by("username"):
                    seen = f"{user.last_seen_at:%Y-%m-%d %H:%M}" if user.last_seen_at else "never"
                    self.stdout.write(f"{user.username}\t{user.role}\t{user.seat}\t{_state(user)}\t{seen}")
            case "add":
                _, link = add_person(ACTOR, name, Place(Role(options["role"]), options["seat"]))
                self._link(link)
            case "link":
                self._link(offer_link(ACTOR, name))
            case "change":
                place = Place(Role(options["role"]), options["seat"])
                change_person(ACTOR, name, place, seen=seen_person(_user(name)))
            case "token":
                _, text = make_token(_user(name), options["label"], Scope(options["scope"]), days=options["days"])
                self.stdout.write(text)
            case "withdraw-token":
                withdraw_token(_user(name), options["number"])
            case _:
                {"disable": disable_person, "enable": enable_person, "end-sessions": end_sessions}[act](ACTOR, name)

    def _link(self, link: str) -> None:
        self.stdout.write(f"/set-password#{link}")


def _of_person(acts: Any, act: str, about: str) -> argparse.ArgumentParser:
    made: argparse.ArgumentParser = acts.add_parser(act, help=about)
    made.add_argument("name")
    return made


def _state(user: User) -> str:
    return "" if user.is_active else "disabled"


def _user(name: str) -> User:
    user = User.objects.filter(username=name).first()
    if user is None:
        raise CommandError(f"there is no account {name}")
    return user
