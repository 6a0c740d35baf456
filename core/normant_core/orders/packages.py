"""Packages of drivers: which of those that the house approved puts a seat right, and which leads back."""

from collections.abc import Iterable

import msgspec

from ..base.quantities import Version
from ..seat.facts import Facts
from .kinds import InstallDriver

SETTINGS = ("driver.version", "driver.branch")  # that a package can settle


class Package(msgspec.Struct, frozen=True):
    """An installer that the house holds; `platform` empty: any. `size` in bytes, `sha256` in hexadecimal."""

    models: tuple[str, ...]
    platform: str
    version: str
    branch: str
    sha256: str
    size: int

    def value_of(self, setting: str) -> str:
        """What that setting, one of `SETTINGS`, reads once it is installed."""
        return self.version if setting == "driver.version" else self.branch

    def serves(self, facts: Facts) -> bool:
        """Whether it is for the GPU whose driver matters on this seat."""
        gpu = facts.working_gpu()
        return gpu is not None and gpu.model in self.models and self.platform in ("", facts.system.platform)


def _serving(packages: Iterable[Package], facts: Facts) -> list[Package]:
    return [package for package in packages if package.serves(facts)]


def install(packages: Iterable[Package], facts: Facts, setting: str, wanted: str) -> InstallDriver | None:
    """The order that brings a seat's driver to that version or branch: by the newest package that does.

    None where the house holds none, or nobody read which driver there is. The package of the present driver goes
    along where the house holds it, so that it can be put back.
    """
    gpu, fits = facts.working_gpu(), _serving(packages, facts)
    if gpu is None or not gpu.driver.version or setting not in SETTINGS:
        return None
    leading = [package for package in fits if package.value_of(setting) == wanted]
    if not leading:
        return None
    newest = max(leading, key=lambda package: Version.parse(package.version))
    older = next((p.sha256 for p in fits if p.version == gpu.driver.version), "")
    return InstallDriver(gpu.id, gpu.driver.version, newest.version, newest.sha256, newest.size, older)
