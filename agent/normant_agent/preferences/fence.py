"""Which folders of preferences an agent touches at all, by the word of whoever installed it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import msgspec

from normant_core.base.guard import is_within
from normant_core.dialects.dialect import Dialect

from ..errors import AgentError


@dataclass(frozen=True, slots=True)
class Fence:
    """Folders under the preference root by application; None: what the house admitted is enough.

    Nothing that comes from the house opens it further.
    """

    allowed: Mapping[str, tuple[str, ...]] | None = None

    @classmethod
    def of(cls, words: Sequence[str]) -> "Fence":
        """`corrow=corrow/`, each a folder or a file; none at all is no fence. Raises AgentError."""
        folders = dict[str, tuple[str, ...]]()
        for word in words:
            app, sign, folder = word.partition("=")
            if not app or not sign or not folder or folder.startswith("/") or ".." in folder.split("/"):
                raise AgentError(f"--allow {word}: expected APPLICATION=FOLDER/ under the folder of preferences")
            folders[app] = (*folders.get(app, ()), folder)
        return cls(folders or None)

    def inside(self, dialect: Dialect) -> Dialect:
        """The dialect without the files that lie outside."""
        if self.allowed is None:
            return dialect
        folders = self.allowed.get(dialect.app, ())

        def is_inside(path: str) -> bool:
            return any(is_within(path, folder) for folder in folders)

        files = tuple(
            msgspec.structs.replace(file, stats=tuple(stats for stats in file.stats if is_inside(stats.path)))
            for file in dialect.file
            if is_inside(file.path)
        )
        return msgspec.structs.replace(dialect, file=files)
