"""Prints the OpenAPI document, from which the web's types are made: `python -m bendro.api.document > docs/openapi.json`."""

import json

from .app import make_app


def document() -> str:
    """The document as kept in docs/openapi.json."""
    return json.dumps(make_app().openapi(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


if __name__ == "__main__":
    print(document(), end="")
