"""What a run has behind it, written down without a screen that draws each of its entries."""

import html
import json
import re
from typing import Any
from urllib.parse import urlsplit
from uuid import uuid4

import httpx
from playwright.sync_api import Page

FORM = re.compile(r'<form method="post" action="/bay/runs">(.*?)</form>', re.DOTALL)
HIDDEN = re.compile(r'<input type="hidden" name="(\w+)" value="([^"]*)"')
PICK = re.compile(r'data-reading="([^"]+)"|<button name="value" value="([^"]+)" class="pick"')
CARD = re.compile(r'<template data-card="([^"]+)">(.*?)</template>', re.DOTALL)
RUN_DATA = re.compile(r'<script type="application/json" id="run-data">(.*?)</script>', re.DOTALL)


def client_of(page: Page, address: str) -> httpx.Client:
    """Whoever is signed in at the page, without its screen; ``address`` is any of the server."""
    cookies = {c["name"]: c["value"] for c in page.context.cookies()}  # type: ignore[typeddict-item]
    at = urlsplit(address)
    return httpx.Client(
        base_url=f"{at.scheme}://{at.netloc}", cookies=cookies, timeout=60, verify=False
    )


def begun(page: Page, unit: str, words: str) -> str:
    """Start the procedure whose button says ``words`` on a unit; the run's address.

    Where another goes on there, it is started all the same.
    """
    listed = page.request.get("/bay")
    of_unit = next(
        part
        for part in listed.text().split('<li><details name="unit"')[1:]
        if f"<b>{unit}</b>" in part
    )
    form = next(one for one in FORM.findall(of_unit) if words in html.unescape(one))
    with client_of(page, listed.url) as client:
        answer = client.post("/bay/runs", data={**dict(HIDDEN.findall(form)), "anyway": "yes"})
        assert answer.status_code == 303, answer.text
        return str(answer.url.join(answer.headers["location"]))


def write_until(page: Page, run: str, key: str, values: dict[str, str]) -> None:
    """Close every step of a run that is open before the step ``key``, as a tablet would send it.

    ``values`` are what is written down, by the reading; a choice is the first that is offered.
    """
    with client_of(page, run) as client:
        shown = client.get(run).text
        data = json.loads(RUN_DATA.search(shown)[1])  # type: ignore[index]
        token = re.search(r'data-csrf="([^"]+)"', shown)[1]  # type: ignore[index]
        kept = re.search(r'data-kept="([^"]+)"', shown)[1]  # type: ignore[index]
        picks = first_picks(client.base_url.join(kept).path, client)
        closed = client.get(f"/api/v1/runs/{data['run']}/state").json()["closings"]
        for step in data["steps"]:
            if step["key"] == key:
                break
            for entry in [] if step["key"] in closed else entries_of(step, picks, values):
                sent = {"id": str(uuid4()), "step": step["key"], **entry}
                answer = client.post(
                    f"/api/v1/runs/{data['run']}/entries",
                    json=sent,
                    headers={"x-csrf-token": token},
                )
                assert answer.is_success, answer.text


def entries_of(
    step: dict[str, Any], picks: dict[str, dict[str, str]], values: dict[str, str]
) -> list[dict[str, Any]]:
    """The entries that close a step: each reading it has to have, and that it is done."""
    made: list[dict[str, Any]] = []
    for reading in (r for r in step["readings"] if r["required"]):
        value: str | float = values.get(reading["key"], "sound")
        if reading["kind"] == "number":
            value = float(str(value).replace(",", "."))
        elif reading["kind"] == "choice":
            value = picks[step["key"]][reading["key"]]
        said = {"reading": reading["key"], "unit": reading["unit"], "value": value}
        made.append({"kind": "reading", **said})
    return [*made, {"kind": "done", "checks": step["needs"]["checks"]}]


def first_picks(address: str, client: httpx.Client) -> dict[str, dict[str, str]]:
    """What is offered first for each reading with a choice, by step and reading."""
    if address not in _picks:
        _picks[address] = picks_of(client.get(address).text)
    return _picks[address]


# By the address of kept cards, which changes with what they say.
_picks: dict[str, dict[str, dict[str, str]]] = {}


def picks_of(cards: str) -> dict[str, dict[str, str]]:
    """The first pick of each reading on kept cards."""
    found: dict[str, dict[str, str]] = {}
    for step, card in CARD.findall(cards):
        reading, of_step = "", found.setdefault(step, {})
        for named, value in PICK.findall(card):
            reading = named or reading
            if value:
                of_step.setdefault(reading, html.unescape(value))
    return found
