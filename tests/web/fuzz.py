"""Requests that hold anything: forms as the pages give them and the API, with junk in their fields.

How many the test of it sends is set by ``ELDRIM_FUZZ``; the same number sends the same.
"""

import json
import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from html.parser import HTMLParser
from typing import Any
from uuid import uuid4

from tests.builders import tug
from tests.web.client import TestClient

JUNK = (
    "", " ", " " * 1400, "x" * 5000, "0", "-1", "1e309", "nan", "inf", "1_000", "١٢", "9" * 400,
    "\x00", "a\x00b", "\x1b[31m", "é!", "Bad Key é!", "<b>", "' OR 1=1 --", "../../etc", "%00",
    "\ud800".encode("utf-8", "surrogatepass").decode("latin-1"), "𝟙", "true", "[]", "{}", "null",
    "2026-02-30", "0001-01-01", "9999-12-31", "18 lbf.ft - 25 Nm", "20 Nm + 90°", "-3 mm", "1/0",
    "00000000-0000-0000-0000-000000000000", "trainer", "1,2,3", "hole/1", "a/b/c", "cover.remove",
    "1" * 30, "-0", "0x1F", "½", "\u202e", "🔧", "\r\n\r\n", "\t=1+1",
)  # fmt: skip
JSON_JUNK: tuple[Any, ...] = (
    None, True, -1, 0, 10**400, 1e308, "", "\x00", "x" * 5000, [], {}, [[]], {"a": 1}, " " * 1400,
    "2026-01-01T00:00:00", "0001-01-01T00:00:00Z", "9999-12-31T23:59:59Z", "\ud800", ["\ud800"],
)  # fmt: skip
# What ends the session that asks, or plays a device, which has a process of its own.
LEFT_OUT = ("/sign-out", "/devices")


@dataclass
class Form:
    """A form of a page: where it goes and what it holds."""

    action: str
    method: str
    fields: list[tuple[str, str]] = field(default_factory=list)


class Forms(HTMLParser):
    """Reads the forms and links of a page."""

    def __init__(self) -> None:
        """Nothing read."""
        super().__init__()
        self.forms: list[Form] = []
        self.links: list[str] = []
        self._open: Form | None = None

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """Take up a form, a field or a link."""
        had = {name: value or "" for name, value in attrs}
        if tag == "form":
            self._open = Form(had.get("action", ""), had.get("method", "get"))
            self.forms.append(self._open)
        elif tag == "a":
            self.links.append(had.get("href", ""))
        elif tag in ("input", "select", "textarea", "button") and self._open and "name" in had:
            self._open.fields.append((had["name"], had.get("value", "")))

    def handle_endtag(self, tag: str) -> None:
        """Leave a form."""
        if tag == "form":
            self._open = None


@dataclass
class Fuzz:
    """Somebody signed in who sends anything; the same seed sends the same."""

    client: TestClient
    chance: random.Random
    forms: dict[str, Form] = field(default_factory=dict)
    pages: list[str] = field(default_factory=list)
    csrf: str = ""

    def look_around(self, most: int) -> None:
        """Follow links from the front page and remember the forms, one of each address."""
        waiting, seen = ["/"], {"/"}
        while waiting and len(self.pages) < most:
            address = waiting.pop(0)
            answer = self.client.get(address)
            if not answer.headers.get("content-type", "").startswith("text/html"):
                continue
            self.pages.append(address)
            if 'data-csrf="' in answer.text:
                self.csrf = answer.text.split('data-csrf="')[1].split('"')[0]
            page = Forms()
            page.feed(answer.text)
            for form in page.forms:
                if form.action.startswith("/") and not form.action.startswith(LEFT_OUT):
                    self.forms.setdefault(f"{form.method} {form.action}", form)
            for link in page.links:
                plain = link.split("#")[0]
                if plain.startswith("/") and plain not in seen and not plain.startswith(LEFT_OUT):
                    seen.add(plain)
                    waiting.append(plain)

    def send(self, count: int) -> Iterator[tuple[str, int, object]]:
        """Send so many requests; each with its address, the status and what was sent."""
        for _ in range(count):
            yield self._one()

    def _one(self) -> tuple[str, int, object]:
        kind = self.chance.random()
        if kind < 0.6:
            return self._form(self.chance.choice(list(self.forms.values())))
        if kind < 0.8:
            return self._query(self.chance.choice(self.pages))
        return self._api(self.chance.choice(list(API)))

    def _form(self, form: Form) -> tuple[str, int, object]:
        data: dict[str, Any] = {}
        for name, value in form.fields:
            data.setdefault(name, value)
        data["csrf"] = self.csrf
        if "id" in data and self.chance.random() < 0.7:
            data["id"] = str(uuid4())
        for name in self._some([name for name in data if name != "csrf"]):
            data[name] = self.chance.choice(JUNK)
        if self.chance.random() < 0.2:
            data[self.chance.choice(["", "x", "step", "c", "number"])] = self.chance.choice(JUNK)
        action = self._bent(form.action)
        if form.method.lower() == "get":
            answer = self.client.get(action, params=data)
        else:
            answer = self.client.post(action, data=data)
        return action, answer.status_code, data

    def _query(self, page: str) -> tuple[str, int, object]:
        path = self._bent(page.split("?")[0])
        asked = {self.chance.choice(QUERIES): self.chance.choice(JUNK) for _ in range(2)}
        answer = self.client.get(path, params=asked)
        return path, answer.status_code, asked

    def _api(self, address: str) -> tuple[str, int, object]:
        body = json.loads(json.dumps(API[address]))
        for name in self._some(list(body)):
            body[name] = self.chance.choice(JSON_JUNK)
        if "id" in body and self.chance.random() < 0.7:
            body["id"] = str(uuid4())
        run = next((p for p in self.pages if p.startswith("/bay/runs/")), "/bay/runs/none")
        path = address.replace("{run}", run.split("?")[0].rsplit("/", 1)[-1])
        sent = json.dumps(body)
        headers = {"content-type": "application/json", "x-csrf-token": self.csrf}
        answer = self.client.post(path, content=sent, headers=headers)
        return path, answer.status_code, sent[:400]

    def _some(self, names: list[str]) -> list[str]:
        return self.chance.sample(names, min(len(names), self.chance.randint(1, 3)))

    def _bent(self, address: str) -> str:
        """Now and then a part of the address is another one."""
        parts = address.split("/")
        if len(parts) > 2 and self.chance.random() < 0.1:
            bent = self.chance.choice(["x", "é", "%00", "a" * 300, "1", str(uuid4()), ".."])
            parts[self.chance.randrange(2, len(parts))] = bent
        return "/".join(parts)


QUERIES = ("c", "page", "q", "variant", "step", "since", "until", "unit", "by", "sum", "forbid",
           "force", "without", "work", "shown", "moving", "follows", "revision", "x")  # fmt: skip
ENTRY = {
    "id": "", "kind": "reading", "step": "ready/battery", "reading": "volts", "value": 12.6,
    "unit": "V", "reason": "", "refers_to": None, "checks": [], "photo": "", "note": "",
    "made": "2026-11-26T10:00:00Z", "carries": [], "how": "typed",
}  # fmt: skip
API: dict[str, dict[str, Any]] = {
    "/api/v1/plan": {
        "engine": tug().model_dump(mode="json", exclude_defaults=True),
        "job": {"cylinders": [1, 3], "variant": "late"},
    },
    "/api/v1/runs/{run}/entries": ENTRY,
    "/api/v1/runs/{run}/by-lead": {"lead": "lead", "pin": "246813", "entry": ENTRY},
    "/api/v1/sums/setting": {"torque": "22 N·m", "adapter": "50 mm"},
}


def refused_badly(fuzz: Fuzz, count: int) -> Counter[str]:
    """Addresses that answered 5xx, with how often; what was sent first is printed."""
    found: Counter[str] = Counter()
    for address, status, sent in fuzz.send(count):
        if status >= 500:
            if address not in found:
                print(status, address, repr(sent)[:600])
            found[address] += 1
    return found
