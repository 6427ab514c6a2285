"""The JSON Schema of the engine file, published in docs/."""

import json
from pathlib import Path

from eldrim.core.engine import Engine

SCHEMA_FILE = "engine-file.schema.json"


def schema_text() -> str:
    """The schema as it stands in docs/."""
    schema = Engine.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    return json.dumps(schema, ensure_ascii=False, indent=1) + "\n"


if __name__ == "__main__":
    (Path(__file__).resolve().parents[3] / "docs" / SCHEMA_FILE).write_text(schema_text())
