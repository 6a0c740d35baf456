"""The real agent on this machine at its real pace, before a door that takes everything: `DIALECTS STATE`."""

import sys
import threading
from pathlib import Path
from typing import Any, cast

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from normant_agent.agent import Agent
from normant_agent.door import Door, Taken
from normant_agent.hosts.linux import LinuxHost
from normant_agent.identity import Identity
from normant_agent.orders.seal import SignedDialect
from normant_core.dialects.dialect import parse_dialect, signed_dialect

HEARTBEAT = 60  # seconds


class OpenDoor:
    """Knows the house's dialects, has no orders, and waits as long as it is asked to."""

    def __init__(self, dialects: Path, key: Ed25519PrivateKey, stop: threading.Event) -> None:
        self._dialects, self._key, self._stop = dialects, key, stop

    def close(self) -> None:
        """Nothing is open."""

    def dialects(self) -> list[SignedDialect]:
        """Signed as a server would."""
        return [self._sealed(path.read_text("utf-8")) for path in self._dialects.glob("*.toml")]

    def _sealed(self, text: str) -> SignedDialect:
        app = parse_dialect(text).app
        return SignedDialect(app, text, self._key.sign(signed_dialect(app, text)))

    def send(self, survey: object) -> Taken:
        """Takes it."""
        return Taken(changed=False, orders=0)

    def wait(self, seconds: float) -> int:
        """No order comes."""
        self._stop.wait(seconds)
        return 0

    def orders(self) -> tuple[Any, ...]:
        """None."""
        return ()


def main(dialects: str, state: str) -> None:
    """Runs until it is ended."""
    key, stop, folder = Ed25519PrivateKey.generate(), threading.Event(), Path(state)
    house = key.public_key().public_bytes_raw()
    known = Identity("http://here", "bench", "token", house, heartbeat_seconds=HEARTBEAT)
    door = cast("Door", OpenDoor(Path(dialects), key, stop))
    Agent(LinuxHost(folder / "preferences"), known, folder / "agent", door).run(stop)


if __name__ == "__main__":
    main(*sys.argv[1:])
