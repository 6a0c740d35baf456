"""Who this agent is: the server it belongs to, its seat, its token, and the key that it pinned."""

from pathlib import Path

import msgspec

from .errors import AgentError
from .files import write_atomically


class Identity(msgspec.Struct, frozen=True):
    """What enrolment gave; `key` is the house's Ed25519 public key, 32 bytes; `ca` a file of certificates that are
    trusted besides the system's."""

    server: str
    seat: str
    token: str
    key: bytes
    heartbeat_seconds: int = 60
    ca: str = ""


def load(folder: Path) -> Identity:
    """Raises AgentError where the agent was never enrolled or its file is damaged."""
    path = folder / "identity.json"
    if not path.exists():
        raise AgentError("this agent is not enrolled: run `normant enrol URL CODE` first")
    try:
        return msgspec.json.decode(path.read_bytes(), type=Identity)
    except msgspec.DecodeError as fault:
        raise AgentError(f"{path}: {fault}; enrol again with a new code") from fault


def save(folder: Path, identity: Identity) -> None:
    """Keep it where only this user may read it."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    path = folder / "identity.json"
    path.touch(mode=0o600)
    write_atomically(path, msgspec.json.encode(identity))
