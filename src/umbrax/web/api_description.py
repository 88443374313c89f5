"""Writes the OpenAPI description from which the page's types are made: python -m umbrax.web.api_description FILE."""

import json
import sys
from pathlib import Path

from .app import describe_app


def description() -> str:
    """The description as stable JSON text."""
    told = describe_app().api_doc
    # the package leaves what nobody told it as nulls, which OpenAPI does not have here
    told["components"] = {key: value for key, value in told["components"].items() if value is not None}
    return json.dumps(told, indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(description())
