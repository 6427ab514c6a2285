"""Devices as tablets hear them, and the page where a person plays the stand-ins."""

import asyncio
import json
import queue
from collections.abc import AsyncIterator
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response, StreamingResponse

from eldrim.core.base.errors import Problem, ProblemsError
from eldrim.core.words.messages import gettext
from eldrim.devices.adapter import Adapter, DeviceError
from eldrim.devices.hub import Hub, Listener, Notice
from eldrim.devices.played_engine import CYLINDERS, ITEMS, MOVES
from eldrim.devices.standins import KINDS
from eldrim.web.context import SignedIn, Writer, render

router = APIRouter(include_in_schema=False)
LOOK_SECONDS, BEAT_SECONDS = 0.15, 10.0
# Of which the misfire counter is asked.
MOST_CYLINDERS = 12
# What a person would do with each, to start from.
EXAMPLES = {
    "wrench": "17.6 N·m",
    "gauge": "1.05 mm",
    "meter": "12.6 V",
    "thermometer": "22 °C",
    "adapter": "codes P0303 P0353",
    "lamp": "speed 1800",
}
# Speeds to bring the played engine to, and how far its body is turned at a tap.
SPEEDS = (0, 600, 900, 1200, 1800, 2600, 3000, 3400)
TURNS = ("0.5", "1", "3")


@router.get("/devices")
def show(request: Request, _: SignedIn) -> Response:
    """The devices, and what to do with a stand-in."""
    played = request.app.state.standins
    return render(
        request,
        "devices/show.html.jinja",
        kinds=KINDS if played else (),
        examples=EXAMPLES,
        said=request.query_params.get("said", "")[:120],
        items=ITEMS,
        moves=MOVES,
        cylinders=list(CYLINDERS),
        timed=_timed(request),
        speeds=SPEEDS,
        turns=TURNS,
    )


def _timed(request: Request) -> str:
    """How the engine behind the lamp stands; empty where there is none."""
    played = request.app.state.standins
    try:
        return str(played.play("lamp", "tell")) if played else ""
    except DeviceError:
        return ""


@router.post("/devices/adapter/engine")
def play_engine(
    request: Request,
    _: Writer,
    act: Annotated[Literal["break", "renew", "swap", "run", "whole", "wet", "dry"], Form()],
    item: Annotated[str, Form(max_length=20)] = "coil",
    cylinder: Annotated[int, Form(ge=1, le=12)] = 1,
    other: Annotated[int, Form(ge=1, le=12)] = 2,
) -> Response:
    """Break something on the engine behind the stand-in adapter, change it over, or run it."""
    line = {
        "break": f"break {item} {cylinder}",
        "renew": f"renew {item} {cylinder}",
        "swap": f"swap {item} {cylinder} {other}",
    }.get(act, act)
    return play(request, _, "adapter", line)


@router.post("/devices/{kind}")
def play(
    request: Request, _: Writer, kind: str, line: Annotated[str, Form(max_length=80)]
) -> Response:
    """Do something with a stand-in, as a person at the engine would."""
    played = request.app.state.standins
    if played is None or kind not in KINDS:
        raise ProblemsError(
            [Problem(kind, gettext("there is no such stand-in here"), gettext("start bin/demo"))]
        )
    try:
        said = played.play(kind, " ".join(line.split()))
    except DeviceError as error:
        raise ProblemsError(
            [Problem(kind, str(error), gettext("write it as {kind}", kind=EXAMPLES[kind]))]
        ) from error
    return RedirectResponse(f"/devices?said={kind}: {said}", 303)


@router.get("/api/v1/devices/stream")
def stream(
    request: Request,
    signed_in: SignedIn,
    take: str = "",
    asker: Annotated[str, Query(max_length=40)] = "",
    turn: int = 0,
) -> Response:
    """What the devices say that this tablet took, as it is said (server-sent events).

    A window that asks again counts its ``turn`` up, so that the older wish, come late, is nothing.
    """
    hub: Hub = request.app.state.hub
    listener = Listener(signed_in.name, asker, turn)
    hub.take(listener, [d for d in take.split(",") if d in hub.urls])
    headers = {"cache-control": "no-store", "x-accel-buffering": "no"}
    return StreamingResponse(
        _events(request, hub, listener), media_type="text/event-stream", headers=headers
    )


async def _events(request: Request, hub: Hub, listener: Listener) -> AsyncIterator[str]:
    quiet = 0.0
    try:
        yield ": here\n\n"
        while not await request.is_disconnected():
            try:
                said = listener.messages.get_nowait()
            except queue.Empty:
                await asyncio.sleep(LOOK_SECONDS)
                quiet += LOOK_SECONDS
                if quiet > BEAT_SECONDS:
                    quiet = 0.0
                    yield ": still here\n\n"
                continue
            if isinstance(said, Notice):
                about = {"device": said.device, "by": said.by}
                yield f"event: {said.what}\ndata: {json.dumps(about)}\n\n"
                continue
            kind = said.passing or "reading"
            yield f"event: {kind}\ndata: {json.dumps(vars(said), ensure_ascii=False)}\n\n"
    finally:
        hub.leave(listener)


@router.get("/api/v1/devices/owners")
def owners(
    request: Request, _: SignedIn, asker: Annotated[str, Query(max_length=40)] = ""
) -> dict[str, str]:
    """Who hears each device now, apart from the window that asks."""
    hub: Hub = request.app.state.hub
    return hub.owners(asker)


@router.get("/api/v1/devices/codes")
def codes(request: Request, _: SignedIn) -> JSONResponse:
    """The trouble codes and freeze data, as one line to write down."""
    hub: Hub = request.app.state.hub
    try:
        with Adapter(hub.adapter) as adapter:
            found, frozen = adapter.codes(), adapter.freeze()
            counted = adapter.misfires(range(1, MOST_CYLINDERS + 1))
            missed = {number: count for number, count in counted.items() if count}
    except DeviceError as error:
        return JSONResponse({"error": str(error)}, 503)
    words = ", ".join(found) or "none"
    if frozen:
        words += f"; freeze {frozen.code}: {frozen.coolant:g} °C, {frozen.rpm:g} per minute"
    if missed:
        words += "; misfires " + ", ".join(f"{n}: {count}" for n, count in missed.items())
    return JSONResponse({"value": words})


@router.post("/api/v1/devices/clear")
def clear(request: Request, _: Writer) -> JSONResponse:
    """Clear the codes; what is left is read again at once."""
    hub: Hub = request.app.state.hub
    try:
        with Adapter(hub.adapter) as adapter:
            adapter.clear()
            left = adapter.codes()
    except DeviceError as error:
        return JSONResponse({"error": str(error)}, 503)
    return JSONResponse({"value": ", ".join(left) or "none"})
