"""What can go wrong on a seat, told so that the server and the people there can act on it."""

from typing import Literal


class AgentError(Exception):
    """Root of what the agent raises on purpose."""


class HostError(AgentError):
    """The machine would not do, or tell, what was asked."""


class JournalError(AgentError):
    """The agent's own folder takes nothing: what was begun is ended once it does again."""


class DoorError(AgentError):
    """The server could not be reached, or would not take what was sent."""

    def __init__(self, message: str, *, status: int = 0) -> None:
        super().__init__(message)
        self.status = status

    @property
    def passing(self) -> bool:
        """Whether it may go well later: the server is away or overburdened, not of another opinion."""
        return self.status == 0 or self.status >= 500 or self.status in (408, 429)


class Refused(AgentError):
    """An order that is not carried out, and why."""


class Waiting(AgentError):
    """An order that waits for its moment, and for what.

    At another `step` than waiting something was done already: it is on its way, and can no more be taken back.
    """

    def __init__(self, message: str, *, step: Literal["waiting", "restart"] = "waiting") -> None:
        super().__init__(message)
        self.step = step
