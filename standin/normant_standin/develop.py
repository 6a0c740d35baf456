"""The demo for whoever works on Normant: what is changed is on the screen within a second.

Vite serves the interface from its sources and hands every question on to the server; server and worker start again when
a file of theirs changes.
"""

from pathlib import Path
from typing import Annotated, Any

import typer
from watchfiles import Change, DefaultFilter, watch

from .demo import REPOSITORY, Child, Demo, keep_up

WATCHED = [REPOSITORY / name for name in ("core/normant_core", "core/normant_timelines", "server/normant")]
RESTARTED = ("server", "worker")
PAUSE_MS = 300  # between two looks whether everything is up


class _Sources(DefaultFilter):
    """Files that a process reads when it starts; a test is none."""

    def __call__(self, change: Change, path: str) -> bool:
        """Whether a change matters."""
        return path.endswith((".py", ".toml")) and "/tests/" not in path and super().__call__(change, path)


class Workshop(Demo):
    """The demo with the interface's sources at a port of their own."""

    def __init__(self, run: Path, port: int, web_port: int) -> None:
        super().__init__(run, port)
        self.web = f"http://127.0.0.1:{web_port}"
        # Itself, and not by npm: that would leave it running when it is asked to end.
        vite = ["node", "web/node_modules/vite/bin/vite.js", "web", "--host", "127.0.0.1"]
        self._vite = [*vite, "--port", str(web_port), "--strictPort"]

    def start(self) -> dict[str, Any]:
        """As the demo; then Vite, whose address is told."""
        known = super().start()
        self._begin(Child("web", self._vite, self.run / "web.log"))
        return {**known, "address": self.web}

    def watch(self) -> None:
        """Until interrupted. What does not start any more waits for the next change: its log says why."""
        fallen = set[str]()
        for changes in watch(*WATCHED, watch_filter=_Sources(), rust_timeout=PAUSE_MS, yield_on_timeout=True):
            self.look_after()
            if changes:
                typer.echo(f"{Path(min(changes)[1]).name} changed: server and worker start again")
                fallen.clear()
            for child in self.children:
                if changes and child.name in RESTARTED:
                    child.stop()
                    child.start(self.env)
                elif child.ended() and child.name not in fallen:
                    fallen.add(child.name)
                    typer.echo(f"the {child.name} ended; see {child.log}", err=True)

    def look_after(self) -> None:
        """PostgreSQL is started again where it ended; logs stay in bounds."""
        self.keep_postgres()
        for child in self.children:
            child.rotate()


def develop(
    port: Annotated[int, typer.Option(help="Port of the server, on loopback.", min=1, max=65535)] = 8400,
    web_port: Annotated[int, typer.Option(help="Port of the interface, on loopback.", min=1, max=65535)] = 8401,
    fresh: Annotated[bool, typer.Option("--fresh", help="Start over: delete the demo's data first.")] = False,
    run: Annotated[Path, typer.Option(help="Folder for data, logs and keys.")] = REPOSITORY / ".run",
    bare: Annotated[bool, typer.Option("--bare", help="Without an errand and rollouts to begin with.")] = False,
) -> None:
    """Start the demo for a change: the interface from its sources, the server anew with each change of its own."""
    keep_up(lambda: Workshop(run, port, web_port), fresh=fresh, bare=bare)


def main() -> None:
    """Entry of script/dev."""
    app = typer.Typer(add_completion=False, pretty_exceptions_enable=False)
    app.command()(develop)
    app(prog_name="script/dev")


if __name__ == "__main__":
    main()
