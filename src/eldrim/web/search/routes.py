"""Search: a page, and the part of it that answers while somebody types."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from eldrim.store import search, sheet_store
from eldrim.web.context import Db, SignedIn, render, swaps

router = APIRouter(include_in_schema=False)


@router.get("/search")
def find(request: Request, db: Db, _: SignedIn, q: str = "") -> Response:
    """What fits the words typed so far."""
    asked = q.strip()[:120]
    template = "found" if swaps(request) else "show"
    titles = sheet_store.titles(db)

    def named(body: str) -> str:
        """What a hit says, with names for our keys."""
        return " ".join(titles.get(word, word) for word in body.split())

    found = search.find(db, asked)
    return render(request, f"search/{template}.html.jinja", q=asked, found=found, named=named)
