"""Packages of drivers: which the house approved."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import File, Form, Router, Schema, UploadedFile
from pydantic import Field

from normant.accounts.auth import Needs, person
from normant.accounts.permissions import Permission
from normant.common.lists import answer, plain
from normant.common.schemas import ListOf, Moment
from normant.proposals.api import ProposedOut
from normant.proposals.models import Proposal

from .models import Package
from .services.keep_package import About, keep_package, withdraw_package

router = Router(tags=["standard"])
_COLUMNS = ("id", "name", "serves", "platform", "version", "branch", "digest", "size", "kept_at", "kept_by")


class PackageOut(Schema):
    """An approved package; `serves` are models of GPUs, `size` in bytes, `digest` its SHA-256."""

    id: int
    name: str
    serves: list[str]
    platform: str
    version: str
    branch: str
    digest: str
    size: int
    kept_at: Moment
    kept_by: str


class PackageIn(Schema):
    """The description of a package; `serves` are GPU models, comma-separated."""

    serves: Annotated[str, Field(min_length=1, max_length=500)]
    version: Annotated[str, Field(min_length=1, max_length=60)]
    branch: Annotated[str, Field(max_length=60)] = ""
    platform: Annotated[str, Field(max_length=20)] = ""


@router.get("/packages", response=ListOf[PackageOut], operation_id="packages", auth=Needs(Permission.SEE_HOUSE))
def packages(request: HttpRequest) -> Any:
    """The packages that plans may use."""
    return _all()


@router.post(
    "/packages",
    response={200: ListOf[PackageOut], 202: ProposedOut},
    operation_id="keep_package",
    auth=Needs(Permission.PUBLISH),
)
def keep(request: HttpRequest, about: Form[PackageIn], package: File[UploadedFile]) -> Any:
    """Approve a package; 202 where it waits for a second person."""
    about_it = About(about.serves.split(","), about.version, about.branch, about.platform)
    package_row = keep_package(about_it, package.name or "package", package.chunks(), person(request))
    return plain({"proposal": package_row.pk}, status=202) if isinstance(package_row, Proposal) else _all()


@router.delete(
    "/packages/{number}", response=ListOf[PackageOut], operation_id="withdraw_package", auth=Needs(Permission.PUBLISH)
)
def withdraw(request: HttpRequest, number: int) -> Any:
    """Plan nothing with it any more."""
    withdraw_package(number, person(request).username)
    return _all()


def _all() -> Any:
    return answer(Package.objects.filter(withdrawn_at=None).values(*_COLUMNS))
