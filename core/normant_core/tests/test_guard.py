"""What nobody may name: tables of the known, and laws over the made-up."""

import base64
import datetime as dt
import hashlib
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from normant_core.base.errors import DocumentError
from normant_core.base.guard import (
    folder_of,
    forbidden_app,
    forbidden_key,
    forbidden_path,
    forbidden_value,
    is_within,
    secret_value,
)
from normant_core.dialects.dialect import parse_dialect
from normant_core.dialects.preferences import HIDDEN, without_secrets
from normant_core.orders.clearing import StoreAim
from normant_core.orders.kinds import (
    AskRestart,
    Change,
    ClearStore,
    Item,
    ListStore,
    PlaceTemplate,
    PlanClearing,
    Rehearse,
    SetPreference,
    SetPriority,
    SurveyNow,
    Wire,
    forbidden,
)

STARTERS = (
    "autostart/corrow.desktop", "autostart/x.ini", "systemd/user/x.service", "systemd/user/x.ini", ".bashrc", "a/.profile",
    "environment.d/x.conf", "LaunchAgents/house.plist", "Start Menu/Programs/x.ini", "Startup/x.ini", "cron/x.ini",
    "corrow/run.sh", "corrow/8/x.ps1", "applications/mimeapps.json", "bin/x.ini", "git/config.ini", "fish/config.ini",
    ".local/bin/x.ini", ".config/autostart/x.json", "corrow/hooks/x.json", "xinitrc", "corrow/scripts/a.json",
    "openbox/rc.xml", "sway/config", "i3/config", "kitty/x.conf", "kitty.conf", "khotkeysrc", "lxsession/x/desktop.ini",
    "com.apple.loginitems.plist", "kwalletrc", "tmux.conf",
)  # fmt: skip
SECRETS = (
    ".ssh/config", ".netrc", "gh/hosts.yml", "corrow/token.json", "corrow/credentials.xml", "chromium/Default/x.json",
    "corrow/Cookies", "corrow/Login Data", "keyrings/x.ini", "containers/auth.json", "x/key.pem", "corrow/api_key.json",
    "mail/x.ini", "wallet/x.json", ".aws/x.ini", "rclone/rclone.ini", "corrow/privateKey.xml",
)  # fmt: skip
PLAIN = (
    "corrow/8/preferences.xml", "corrow/8/templates/house.xml", "glaize/5/desk.plist", "pockle/3/pockle.ini", ".corrow/x.ini",
    "plinthe/{version.major}/bench.json", "corrow/*.json", "profile.ini", ".config/corrow/x.ini", "corrow/keyboard.json",
)  # fmt: skip
COMMANDS = (
    "sh -c x", "/usr/bin/env x", "x; rm -r /", "$(x)", "`x`", "a && b", "C:\\Windows\\System32\\x", "x.exe", "a|b", "x > y",
    "https://example.test/x", "file:///etc/x", "%APPDATA%\\x", "#!x", "/home/me/x.sh", "python3 x", "\\\\host\\share", "a\nb",
)  # fmt: skip
VALUES = (
    "hadrel", "1/2", "24000/1001", "/media/fast/corrow/source_cache", "D:\\cache\\corrow", "UHD 25 master", "every-frame",
    "/Volumes/Fast Disk/corrow/source_cache_2_of_Many_Folders9", "13108", "true", "31.4.2-rc1", "Hadrel H60 (16 GiB)",
)  # fmt: skip


class Places(TestCase):
    def test_where_programs_start_and_secrets_lie_nobody_goes(self) -> None:
        for path in (*STARTERS, *SECRETS):
            for spelling in (path, path.upper(), path.replace("/", "\\"), f"corrow/../{path}", f"corrow/{path}"):
                with self.subTest(spelling):
                    self.assertTrue(forbidden_path(spelling, "corrow"))

    def test_preferences_are_where_they_are(self) -> None:
        self.assertEqual({path: forbidden_path(path, "corrow") for path in PLAIN}, dict.fromkeys(PLAIN, ""))

    def test_a_hidden_folder_is_an_applications_own_or_nobodys(self) -> None:
        self.assertTrue(forbidden_path(".corrow/x.ini", "pockle"))
        self.assertTrue(forbidden_path(".corrow/x.ini"))

    def test_a_name_with_several_stars_is_none(self) -> None:
        self.assertIn("several stars", forbidden_path("corrow/a*b*c*d.xml"))

    def test_a_folder_ends_before_what_stands_for_several(self) -> None:
        for path, folder in (
            ("corrow/8/preferences.xml", "corrow/"),
            ("plinthe/{version.major}/bench.json", "plinthe/"),
            ("maker/corrow/v8/x.xml", "maker/corrow/"),
            ("p.ini", "p.ini"),
            ("8/p.ini", "8/"),
        ):
            self.assertEqual(folder_of(path), folder)
            self.assertTrue(is_within(path, folder))
        self.assertFalse(is_within("corrow-other/x", "corrow/"))
        self.assertFalse(is_within("p.ini/x", "p.ini"))


class Keys(TestCase):
    def test_what_is_run_or_secret_is_bound_by_nobody(self) -> None:
        for at in ("/a/@exec", "/Desktop Entry/Exec", "/render/command", "/x/startupScript", "/api_key", "/auth/token", "/a/passWord",
                   "/open/pluginPath", "/x/loginData", "/shell", "/x/Plug-In Path", "/x/start-up_item", "/x/Add On"):  # fmt: skip
            with self.subTest(at):
                self.assertTrue(forbidden_key(at))

    def test_plain_ones_are(self) -> None:
        for at in ("/settings/memory/spare", "/Play/Draw", "/hand_over/raw_in_full", "/keepMinutes", "/queue/encoder"):
            self.assertEqual(forbidden_key(at), "")

    def test_the_systems_own_are_no_applications(self) -> None:
        self.assertTrue(all(map(forbidden_app, ("systemd", "explorer", "sshd", "Python3", "launchd"))))
        self.assertEqual(forbidden_app("corrow"), "")


class Values(TestCase):
    def test_commands_are_written_nowhere(self) -> None:
        for value in COMMANDS:
            with self.subTest(value):
                self.assertTrue(forbidden_value(value))

    def test_values_are(self) -> None:
        self.assertEqual({value: forbidden_value(value) for value in VALUES}, dict.fromkeys(VALUES, ""))

    @given(st.integers())
    def test_what_was_drawn_by_lot_is_taken_for_a_secret(self, number: int) -> None:
        drawn = hashlib.sha256(str(number).encode()).hexdigest()
        for text in (drawn, drawn[:32]):
            self.assertTrue(secret_value(text))

    def test_of_what_mixes_all_letters_next_to_none_passes_for_a_word(self) -> None:
        drawn = [hashlib.sha256(str(number).encode()).digest() for number in range(3000)]
        passed = [sample for sample in drawn if not secret_value(base64.urlsafe_b64encode(sample).decode())]
        self.assertLess(len(passed), 6)

    def test_secrets_are_hidden_in_what_people_are_shown(self) -> None:
        shown = without_secrets("p.ini", b"[a]\r\ntoken=abc\r\nspare=2\r\nplain=nrm_abcdefghijklmnop\r\n")
        self.assertEqual(shown, f"[a]\r\ntoken={HIDDEN}\r\nspare=2\r\nplain={HIDDEN}\r\n".encode())
        self.assertIsNone(without_secrets("p.bin", b"\x00\x01\x02 token"))


class Doors(TestCase):
    HEAD = 'format = "normant-dialect/1"\napp = "{app}"\nversions = ">=3"\n[[file]]\nname = "p"\npath = "{path}"\nformat = "ini"\n'
    BINDING = '[[file.binding]]\nsetting = "delivery.preset"\nat = "{at}"\n'

    def test_no_dialect_names_them(self) -> None:
        for app, path, at in (
            ("corrow", "autostart/x.ini", "/a/b"),
            ("corrow", "corrow/p.ini", "/a/Exec"),
            ("systemd", "corrow/p.ini", "/a/b"),
            ("corrow", ".ssh/p.ini", "/a/b"),
        ):
            with self.subTest(f"{app} {path} {at}"), self.assertRaisesRegex(DocumentError, "nobody may"):
                parse_dialect((self.HEAD + self.BINDING).format(app=app, path=path, at=at))
        self.assertTrue(parse_dialect((self.HEAD + self.BINDING).format(app="corrow", path="corrow/p.ini", at="/a/b")))

    def test_no_order_does_them(self) -> None:
        plain = Change("memory.held_back", "1", "2", 2 * 2**30)
        good = SetPreference("corrow", "p", (plain,))
        self.assertEqual(forbidden(good), "")
        bad = (
            SetPreference("corrow", "p", (Change("delivery.preset", "a", "sh -c x", "a"),)),
            SetPreference("corrow", "p", (Change("no.such", "a", "b", "b"),)),
            SetPreference("corrow", "p", (Change("memory.held_back", "1", "2", "lots"),)),
            SetPreference("corrow", "p", (Change("delivery.ignore_errors", "false", "true", True),)),
            SetPreference("sshd", "p", (plain,)),
            PlaceTemplate("corrow", "t", "autostart/x.xml", (plain,), "0" * 64),
            SetPriority("explorer", "normal", "high"),
        )
        for action in bad:
            with self.subTest(action):
                self.assertTrue(forbidden(action))
                self.assertTrue(forbidden(Rehearse((good, action))))


class MadeUp(Wire, frozen=True, tag="made_up", tag_field="kind"):
    """A kind of order that the guard has no case for."""


class Kinds(TestCase):
    def test_a_kind_that_the_guard_does_not_know_is_refused(self) -> None:
        self.assertEqual(forbidden(MadeUp()), "MadeUp is nothing that may be asked of a seat")  # type: ignore[arg-type] # on purpose

    def test_kinds_that_name_nothing_are_let_pass(self) -> None:
        for action in (SurveyNow(), AskRestart()):
            self.assertEqual(forbidden(action), "")

    def test_stores_of_a_forbidden_application_are_refused(self) -> None:
        now = dt.datetime(2026, 3, 3, tzinfo=dt.UTC)
        for action in (
            ListStore("systemd", "store.source_cache.path", 30),
            ClearStore("systemd", "store.source_cache.path", "/x", (Item("a", 1, now),)),
            PlanClearing((StoreAim("systemd", "source_cache"),), now),
        ):
            self.assertTrue(forbidden(action), action)
