"""What no dialect and no order may reach, whoever asks for it: where programs start, and where secrets lie.

The server refuses it, the command line tells of it, and the agent refuses it once more by itself: nobody can override
that from outside. The words are in guard.toml.
"""

import re
import tomllib
from functools import cache
from importlib import resources
from itertools import pairwise
from typing import Any

MOST_STARS = 1  # in a file's name
LONGEST_VALUE = 1024  # characters that are written


@cache
def _all(name: str) -> frozenset[str]:
    """The words of a list of guard.toml."""
    return frozenset(str(_lists()[name]).split())


@cache
def _lists() -> dict[str, Any]:
    text = resources.files(__package__).joinpath("guard.toml").read_text("utf-8")
    lists: dict[str, Any] = tomllib.loads(text)
    return lists


# Files that a shell or a session reads as it begins.
_BEGINNINGS = re.compile(
    r"[._]?(?:(?:bash|zsh|ksh|csh|tcsh|fish|sh|x|xinit|screen|inputrc|env)?"
    r"(?:rc|_profile|_login|_logout|profile|login|logout|zshenv|zprofile|zlogin|initrc|session|xsession|xprofile|"
    r"xresources|xdefaults|environment|pam_environment|crontab|anacrontab|sudoers|rhosts|shosts|forward|procmailrc|"
    r"gdbinit|lldbinit|vimrc|exrc|emacs|editorconfig|makefile|gemrc|irbrc|pythonrc|pythonstartup|envrc))"
)
_STORE_NAME = re.compile(r"(?:key|cert)\d\.db|id_(?:rsa|dsa|ecdsa|ed25519).*|login data.*", re.IGNORECASE)
_DIGEST = re.compile(r"(?<![0-9A-Za-z])(?=[0-9]*[a-fA-F])[0-9a-fA-F]{28,}(?![0-9A-Za-z])")
_LONG_SECRET = re.compile(r"[A-Za-z0-9_\-+=]{24,}")
_SECRET_TEXT = re.compile(
    r"-----BEGIN|^eyJ[\w-]{8,}\.|"
    r"^(?:sk|pk|rk|gh[a-z]|glpat|xox[a-z]|nrm|npm|pypi|whsec|hvs|bearer|basic|token)[-_ ].{12,}",
    re.IGNORECASE,
)
_COMMAND_TEXT = re.compile(r"[`\n\r\0;|<>]|&&|\$[({\w]|%\w+%|^\s*#!|^\s*@?echo |^[a-z][a-z0-9+.-]*://|^\\\\")
_INTERPRETED = re.compile(
    r"^\s*(?:\S*[\\/])?(?:(?:ba|z|k|da|c|tc|fi)?sh|cmd|powershell|pwsh|python[\d.]*|perl|ruby|node|osascript|[wc]script|"
    r"rundll32|regsvr32|mshta|curl|wget|xdg-open|open|start|env|nohup|setsid|sudo|exec)(?:\.exe)?\s",
    re.IGNORECASE,
)
_PROGRAM_TEXT = re.compile(r"(?:^|[\\/])(?:s?bin|libexec|system32|scripts)[\\/]", re.IGNORECASE)


def forbidden_path(path: str, app: str = "") -> str:
    """Why nobody may read or write this, under whichever root; empty where it may be. Both kinds of slashes divide.

    A hidden folder is fit where it is the application's own (`.corrow`).
    """
    parts = [part for part in re.split(r"[\\/]", path.lower()) if part not in ("", ".", "..")]
    if why := next(filter(None, (_forbidden_part(part, app) for part in parts)), ""):
        return why
    return _forbidden_name(parts[-1]) if parts else ""


def _forbidden_name(name: str) -> str:
    """Why nobody may read or write a file of this name, wherever it is."""
    if _BEGINNINGS.fullmatch(name):
        return f"{name} is read by what starts"
    if name.count("*") > MOST_STARS:
        return f"{name} has several stars"
    return f"{name} is of a kind that is run" if _ending(name) in _all("programs") else ""


def _forbidden_part(part: str, app: str) -> str:
    own = bool(app) and part.lstrip(".").startswith(app.lower())
    if part.startswith(".") and part not in _all("plain_hidden") and not own:
        return f"{part} is hidden: such places hold what starts by itself, and secrets"
    if part.replace(" ", "-") in _all("starts"):
        return f"{part} is where programs start"
    return f"{part} is called like a place of secrets" if is_secret_name(part) else ""


def is_secret_name(name: str) -> bool:
    """Whether a file or a folder is called like one that holds secrets."""
    return _is_secret(_words(name)) or _ending(name) in _all("secret_kinds")


def is_secret_store(name: str) -> bool:
    """Whether a file beside a preference file shows that its folder is a place of secrets, by its name."""
    named = any(word in _all("stores") for word in _words(name))
    return named or _ending(name) in _all("secret_kinds") or _STORE_NAME.fullmatch(name) is not None


def forbidden_app(app: str) -> str:
    """Why a dialect may not be an application of that name; empty where it may."""
    return f"{app} is the system's own" if app.lower() in _all("not_closed") else ""


def forbidden_key(at: str) -> str:
    """Why no setting may be bound to this address of a file; empty where one may."""
    for step in at.split("/")[-3:]:
        words = _words(step)
        if _is_secret(words):
            return f"{step} is called like a secret"
        if command := next((word for word in words if word in _all("commands")), ""):
            return f"{step} ({command}) is called like something that is run"
    return ""


def is_secret_key(at: str) -> bool:
    """Whether an address is called like a secret's."""
    return any(_is_secret(_words(step)) for step in at.split("/")[-3:])


def secret_value(raw: str) -> str:
    """Why a value is not told to anybody; empty where it may be."""
    if _SECRET_TEXT.search(raw) or _DIGEST.search(raw):
        return "it looks like a secret"
    # Words change between letters and digits now and then, what was drawn by lot does all the time.
    if any(_changes(match.group()) >= len(match.group()) // 5 for match in _LONG_SECRET.finditer(raw)):
        return "it looks like a secret"
    return ""


def forbidden_value(raw: str) -> str:
    """Why nobody may write this text anywhere; empty where it may be written."""
    if len(raw) > LONGEST_VALUE:
        return f"it has more than {LONGEST_VALUE} characters"
    if _COMMAND_TEXT.search(raw) or _INTERPRETED.match(raw):
        return "it looks like a command, or like an address"
    if _PROGRAM_TEXT.search(raw):
        return "it names a folder of programs"
    if _ending(re.split(r"[\\/]", raw.strip())[-1]) in _all("programs"):
        return "it names a program"
    return secret_value(raw)


def folder_of(path: str) -> str:
    """The folder of preferences that a dialect's path lies in, which the house admits as a whole: `corrow/` of
    `corrow/8/preferences.xml`. It ends before the first part that is a version or stands for several; a file right
    under the root is admitted by itself."""
    parts = path.split("/")
    taken = list[str]()
    for part in parts[:-1]:
        if taken and (re.match(r"v?\d", part) or "*" in part or "{" in part):
            break
        taken.append(part)
    return "/".join(taken) + "/" if taken else path


def is_within(path: str, folder: str) -> bool:
    """Whether a path lies in an admitted folder, or is the file that was admitted."""
    return path.startswith(folder) if folder.endswith("/") else path == folder


def _ending(name: str) -> str:
    """What stands behind the last dot of a file's name; some systems leave out dots and spaces at its end."""
    return name.lower().rstrip(". ").rpartition(".")[2] if "." in name.rstrip(". ") else ""


def _is_secret(words: list[str]) -> bool:
    pairs = _lists()["secret_pairs"]
    return any(word in _all("secrets") for word in words) or any(list(pair) in pairs for pair in pairwise(words))


def _changes(text: str) -> int:
    """How often a text changes between letters of one case, of the other, and digits; signs divide words."""
    kinds = [0 if c.isdigit() else 1 if c.islower() else 2 if c.isupper() else 3 for c in text]
    return sum(kind != two for kind, two in pairwise(kinds) if 3 not in (kind, two) and (kind, two) != (2, 1))


def _words(name: str) -> list[str]:
    """`apiKey_v2` as api, key, v2; then neighbours joined, so that `Plug-In Path` holds plugin; then the whole."""
    spaced = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", " ", name)
    words = re.findall(r"[a-z0-9]+", spaced.lower())
    return list(dict.fromkeys([*words, *map("".join, pairwise(words)), "".join(words)])) if len(words) > 1 else words
