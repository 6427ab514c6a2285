"""The tablet's rules run by the node that comes with Playwright, without a browser."""

import json
import subprocess
from functools import cache
from pathlib import Path
from typing import Any

from playwright._impl._driver import compute_driver_executable

from eldrim.web import files

RULES = (files.FOLDER / "bay" / "rules.js").as_uri()


@cache
def _node() -> Path:
    return Path(compute_driver_executable()[0])


def ask_tablet(script: str, given: Any) -> Any:
    """Return what ``script``, an expression on ``rules`` and ``given``, comes to."""
    program = f"""
        import * as rules from {json.dumps(RULES)};
        let text = "";
        for await (const part of process.stdin) text += part;
        const given = JSON.parse(text);
        console.log(JSON.stringify({script}));
    """
    command = [str(_node()), "--input-type=module", "--eval", program]
    done = subprocess.run(
        command, input=json.dumps(given), capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)
