"""Our styles, scripts and fonts, under an address that changes whenever one of them does.

So a browser keeps each for good, and a page never gets scripts of another version than its own.
"""

from functools import cache
from hashlib import sha256
from pathlib import Path

FOLDER = Path(__file__).parent / "static"


@cache
def address() -> str:
    """Where they are served: ``/static/`` and a digest of all of them."""
    digest = sha256()
    for file in sorted(p for p in FOLDER.rglob("*") if p.is_file()):
        digest.update(f"{file.relative_to(FOLDER).as_posix()}\0".encode())
        digest.update(file.read_bytes())
    return f"/static/{digest.hexdigest()[:12]}"
