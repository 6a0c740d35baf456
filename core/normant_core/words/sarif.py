"""Doubts in a standard as SARIF 2.1.0 (OASIS), which review tools read."""

from collections.abc import Sequence
from typing import Any

from ..house.lint import CODES, Doubt


def as_sarif(path: str, doubts: Sequence[Doubt]) -> dict[str, Any]:
    """Return the report on the standard at `path`."""
    rules = [{"id": code, "shortDescription": {"text": description}} for code, description in CODES.items()]
    return {
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [
            {
                "tool": {"driver": {"name": "normant lint", "rules": rules}},
                "results": [
                    {
                        "ruleId": doubt.code,
                        "level": doubt.level,
                        "message": {"text": f"{doubt.rule}: {doubt.message}" if doubt.rule else doubt.message},
                        "locations": [
                            {
                                "physicalLocation": {
                                    "artifactLocation": {"uri": path},
                                    "region": {"startLine": doubt.line or 1},
                                }
                            }
                        ],
                    }
                    for doubt in doubts
                ],
            }
        ],
    }
