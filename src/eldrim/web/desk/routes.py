"""Where a day begins: what waits for whoever signed in."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from eldrim.web.context import Db, SignedIn, render
from eldrim.web.desk.waiting import waiting

router = APIRouter(include_in_schema=False)


@router.get("/desk")
def desk(request: Request, db: Db, signed_in: SignedIn) -> Response:
    """What waits for somebody of this role, each line an act."""
    kinds = waiting(db, signed_in, lambda: request.app.state.floor.bays(db))
    return render(request, "desk/show.html.jinja", kinds=kinds)
