"""The project templates that plans may place."""

import contextlib

from normant.dialects.current import dialects
from normant_core.base.errors import FileError
from normant_core.plan.templates import Held, read_template

from .models import Template


def templates() -> list[Held]:
    """The project templates that plans may place; one that its dialect reads no more is left out."""
    spoken = {dialect.app: dialect for dialect in dialects()}
    held = list[Held]()
    for template in Template.objects.filter(held_until=None, app__in=spoken):
        with contextlib.suppress(FileError):
            readings = read_template(spoken[template.app], template.file, bytes(template.body))
            held.append(
                Held(template.name, template.app, tuple(template.productions), template.file, template.digest, readings)
            )
    return held
