"""A house's archive, taken apart and put together again."""

import io
import zipfile
from collections.abc import Mapping
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from normant.accounts.permissions import Role
from normant.tests.house import House


def parts_of(house: House) -> dict[str, bytes]:
    """Each part of the archive by its name."""
    content = house.client(Role.ADMINISTRATOR).get("/api/v1/house/archive").content
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        return {name: archive.read(name) for name in archive.namelist()}


def zip_of(parts: Mapping[str, bytes]) -> bytes:
    """An archive of these parts."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, content in parts.items():
            archive.writestr(name, content)
    return out.getvalue()


def take(house: House, parts: Mapping[str, bytes]) -> Any:
    """The answer to an administrator who brings these parts."""
    file = SimpleUploadedFile("house.zip", zip_of(parts))
    return house.client(Role.ADMINISTRATOR).post("/api/v1/house/archive", {"archive": file})
