"""Processes of a house, forked from one that has imported them: a house is started anew for most journeys.

`python -m e2e.nursery` reads lines of JSON, and answers each with a line: `{"start": [...], "log": "..."}` starts a
process, with the words of a command line after `python`; `{"kill": true}` ends all of them. As in the demo, a process
that ends by itself is started again.
"""

import ctypes
import gc
import json
import os
import select
import signal
import sys
from importlib import import_module
from pathlib import Path
from typing import Any

import django
from django.core.management import execute_from_command_line

PR_SET_PDEATHSIG = 1
LOOK_SECONDS = 0.3  # between two looks whether a process has ended
PRELOADED = (
    *("normant.config.asgi", "normant.config.urls", "normant.config.management.commands.serve"),
    *("normant.rollouts.management.commands.work", "procrastinate.worker", "normant_standin.cli"),
)


def main() -> None:
    """Import what the processes need, then do what is asked, until standard input ends."""
    django.setup()
    for module in PRELOADED:
        import_module(module)
    gc.collect()
    gc.freeze()
    running: dict[int, dict[str, Any]] = {}
    while True:
        if select.select([sys.stdin], [], [], LOOK_SECONDS)[0]:
            line = sys.stdin.readline()
            if not line:
                return
            _answer(json.loads(line), running)
            print("done", flush=True)
        for number in [number for number in running if os.waitpid(number, os.WNOHANG)[0]]:
            _start(running.pop(number), running)


def _answer(asked: dict[str, Any], running: dict[int, dict[str, Any]]) -> None:
    if "start" in asked:
        _start(asked, running)
        return
    for number in reversed(running):
        os.kill(number, signal.SIGKILL)
        os.waitpid(number, 0)
    running.clear()


def _start(asked: dict[str, Any], running: dict[int, dict[str, Any]]) -> None:
    nursery = os.getpid()
    if number := os.fork():
        running[number] = asked
        return
    _become(Path(asked["log"]), nursery)
    program, *words = asked["start"]
    if program == "-m":
        import_module(words[0]).app(words[1:])
    else:
        execute_from_command_line([program, *words])
    os._exit(0)


def _become(log: Path, nursery: int) -> None:
    """Become a process of its own that ends with the nursery and writes to its log."""
    os.setsid()
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    if os.getppid() != nursery:
        os._exit(1)
    with log.open("ab") as out, Path(os.devnull).open("rb") as nothing:
        os.dup2(nothing.fileno(), 0)
        os.dup2(out.fileno(), 1)
        os.dup2(out.fileno(), 2)


if __name__ == "__main__":
    main()
