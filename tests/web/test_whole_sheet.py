"""Everything the engine file can say has its place in the interface.

Every field of the published schema is looked for among what acts of the board and forms of the
spec sheet change: each is sent as its form sends it, and what it changed on the sheet is noted.
"""

import re
from collections.abc import Iterator
from html.parser import HTMLParser
from typing import Any

from eldrim.core.engine import Engine
from eldrim.store import drafts, sheet_store
from tests.web.client import TestClient
from tests.web.test_board import GROUND
from tests.web.test_release import Store
from tests.web.test_web import sign_in

Schema = dict[str, Any]
WHOLE = Engine.model_json_schema(mode="serialization")
# What no form says, and why.
ELSEWHERE = {
    "format": "the version of the file",
    "id": "made from make and name, once",
    "revision": "counts itself",
    "layout.photo.image": "taken with the camera: test_underlay",
    "layout.photo.size": "that of the plan it was laid on: test_underlay",
    "pace.*": "what the log taught, accepted: test_learnt",
    "ignition.kind": "chosen with the shape an engine begins as",
}


def plain(schema: Schema) -> Schema:
    """A schema without its references, and what it is where it is not nothing."""
    while "$ref" in schema or "anyOf" in schema:
        if "$ref" in schema:
            schema = WHOLE["$defs"][schema["$ref"].rsplit("/", 1)[1]]
        else:
            schema = next(one for one in schema["anyOf"] if one.get("type") != "null")
    return schema


def inner(schema: Schema, key: str) -> tuple[str, Schema]:
    """What a field, an entry or a place in a list is called in a path, and its schema."""
    schema = plain(schema)
    if schema.get("type") == "array" and "items" in schema:
        return "*", schema["items"]
    if key in schema.get("properties", {}):
        return key, schema["properties"][key]
    named = schema.get("additionalProperties") or next(
        iter(schema.get("patternProperties", {}).values()), None
    )
    return ("*", named) if isinstance(named, dict) else (key, {})


def fields(schema: Schema, path: str = "") -> Iterator[str]:
    """Every last field of a schema, entries and places in lists as ``*``."""
    schema = plain(schema)
    below = [key for key in schema.get("properties", {})]
    if not below and (schema.get("type") in ("object", "array")) and "prefixItems" not in schema:
        below = ["*"]
    if not below or inner(schema, below[0])[1] == {}:
        yield path
        return
    for key in below:
        name, within = inner(schema, key)
        yield from fields(within, f"{path}.{name}" if path else name)


def stated(value: Any, schema: Schema, path: str = "", place: str = "") -> Iterator[Any]:
    """Every last value of a sheet: where it is, the field it is, the value."""
    schema = plain(schema)
    entries = (
        value.items()
        if isinstance(value, dict)
        else enumerate(value)
        if isinstance(value, list)
        else ()
    )
    leaf = not schema.get("properties") and inner(schema, "*")[1] == {}
    if leaf or "prefixItems" in schema or not isinstance(value, dict | list):
        yield place, path, value
        return
    for key, one in entries:
        name, within = inner(schema, str(key))
        yield from stated(one, within, f"{path}.{name}" if path else name, f"{place}/{key}")


def changed(before: Engine, after: Engine) -> set[str]:
    """The fields in which two sheets say different things."""
    was, now = (
        {
            place: (path, value)
            for place, path, value in stated(
                one.model_dump(mode="json", exclude_defaults=True), WHOLE
            )
        }
        for one in (before, after)
    )
    return {
        (now.get(place) or was[place])[0]
        for place in was.keys() | now.keys()
        if was.get(place) != now.get(place)
    }


# Done on the plan itself, by pointer or keys.
BY_HAND = ("move",)


CONTROLS = ("input", "select", "textarea", "button")
# What a form is about, sent with it unseen.
ABOUT = {
    "csrf",
    "number",
    "part",
    "key",
    "index",
    "place",
    "revision",
    "variant",
    "over",
    "targets",
}


class Controls(HTMLParser):
    """What the forms of a page send, by where they send it."""

    def __init__(self, page: str) -> None:
        """Read the page."""
        super().__init__()
        self.to, self.names = "", dict[str, set[str]]()
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """A form begins, or a control of it stands here."""
        told = dict(attrs)
        if tag == "form":
            self.to = told.get("action") or ""
        elif told.get("type") != "hidden" and tag in CONTROLS and told.get("name"):
            self.names.setdefault(self.to, set()).add(str(told["name"]))


def refusal(page: str) -> list[str]:
    """What a page refuses."""
    return re.findall(r'refusal"[^>]*>([^<]*)<', page) or [page[:600]]


class Sheet:
    """A trainer who says things of an engine, each as its form sends it."""

    def __init__(self, client: TestClient, store: Store, key: str) -> None:
        """Take the engine on the board."""
        self.client, self.store, self.key, self.said = client, store, key, set[str]()
        self.csrf = sign_in(client, "trainer")

    def draft(self) -> drafts.Draft:
        """What is drawn now."""
        with self.store() as session:
            return drafts.current(session, self.key)

    def board(self, act: str, part: str = "", /, **form: Any) -> None:
        """One act on the board; it must change something, and the page must show no refusal."""
        before = self.draft()
        form = {"csrf": self.csrf, "number": str(before.number), "part": part, **form}
        here = f"/capture/{self.key}"
        shown = Controls(self.client.get(f"{here}?part={part}").text).names
        assert act in BY_HAND or set(form) - ABOUT <= shown.get(f"{here}/{act}", set()), (
            act,
            shown,
        )
        page = self.client.post(f"{here}/{act}", data=form)
        found = changed(before.engine, self.draft().engine)
        assert found, (act, form, refusal(page.text))
        self.said |= found

    def kept(self, path: str, /, **form: Any) -> None:
        """One form of the spec sheet."""
        with self.store() as session:
            before = sheet_store.sheet(session, self.key)
        form = {"csrf": self.csrf, "revision": str(before.revision), **form}
        here = f"/engines/{self.key}"
        page = path if path.startswith("words") else "figures"
        of = f"?variant={form.get('variant', '')}"
        shown = Controls(self.client.get(f"{here}/{page}{of}").text).names
        sent = set(form) - ABOUT | ({"index"} if path.endswith("plug-identity") else set())
        assert sent <= set().union(*shown.values()), (path, sent - set().union(*shown.values()))
        answer = self.client.post(f"{here}/{path}", data=form)
        with self.store() as session:
            found = changed(before, sheet_store.sheet(session, self.key))
        assert found - {"revision"}, (path, refusal(answer.text))
        self.said |= found


JOINT = (
    "3 inner-hex bolts 5 mm 8 N·m deep below 140 mm pocket 20 mm room 60 mm lean 10° swing 45° "
    "drive 1/4 stand left carries air one-time plastic isolate mirror pressurised at 10 20, 30 20, "
    '50 20 "ear bolt" #K-1 (by the rail)'
)
DOING = {
    "tools": "clamp pliers, pick",
    "skills": "fuel system",
    "risks": "broken tab: high",
    "note": "gently",
}
MORE_GROUND = {
    "timing_end": "right",
    "stand": "top",
    "bulkhead": "bottom",
    "head": "iron",
    "charging": "forced",
    "fuel": "gas",
    "service": "marine",
    "system": "24 V",
    "firing_order": "1 2 4 3",
    "marks": "A, B, C, D",
    "diagnosis": "none",
    "isolate": "always",
    "battery": "under the seat",
    "cooling": "air",
    "mixture": "carburettor",
    "shared": "Vacuum: air 2",
    "own_codes": "P1314 = misfire 4: fuel cut; P1400 = lean only: weak there; E-17: oil level",
    "bank-only": "The row",
    "coil_letters": "A=1, B=2, C=3, D=4",
    "make": "Tarnmoor",
    "name": "four, late",
    "engine_note": "seen once",
    "shape": "flat",
    "mounting": "along",
    "cycle": "two_stroke",
    "plan": "900 640",
    "block": "150 110 500 260",
}


def test_everything_the_file_can_say_has_its_place(client: TestClient, store: Store) -> None:
    """Coil on plug, leads and distributor, pack; then the spec sheet of one that is kept."""
    said = _coils(client, store) | _leads(client, store) | _pack(client, store)
    said |= _spec_sheet(client, store) | _banks(client, store)
    every = set(fields(WHOLE))
    unsaid = every - said - set(ELSEWHERE)
    assert not unsaid, "\n".join(sorted(unsaid))
    assert said - every == set(), "what is said is in the schema"


# What each form sends; some of it is what was not there before.
WAY = {
    "kind": "swing_aside",
    "out": "1",
    "back": "2",
    "releases": "clip",
    "opens": "port",
    "persons": "2",
    "by_feel": "yes",
    "good_for_torque": "",
    "called": "to the left",
    **DOING,
}
PART = {
    "name": "Duct, long",
    "kind": "charge_pipe",
    "level": "7",
    "opens": "mouth",
    "pushes_onto": "Plenum",
    "refit_after": "Plenum",
    "part_number": "D-1",
    "variants": "all",
    "note": "mind the rail",
}
HINDRANCE = {
    "kind": "safety",
    "of": "hole/2",
    "target": "hole/3/plug",
    "cleared_by": "remove",
    "variants": "all",
    "note": "hot",
}
ROUND = {"kind": "swivel", "out": "1", "back": "1.5", "needs": "Plenum", "good_for_torque": ""}
WELL = {
    "depth": "91",
    "bore": "27",
    "room_above": "310",
    "sight": "felt",
    "note": "oily",
    "tilt": "12",
    "room_open": "500",
    "surround": "30",
    "line": "8",
    "swing": "60",
    "confirmed": "measured",
    "at": "250 240",
}
COIL = {"part_number": "C-1", "boot_part": "B-1", "boot_greased": "yes", "short_loom": "yes"}


def _coils(client: TestClient, store: Store) -> set[str]:
    sheet = Sheet(client, store, "tarn-four")
    begun = {"csrf": sheet.csrf, "make": "Tarn", "name": "four", "shape": "inline-four"}
    client.post("/engines/new", data=begun)
    sheet.board("add", kind="duct")
    sheet.board("add", kind="plenum")
    sheet.board("move", "duct", dx="10", dy="10")
    sheet.board("joint", "duct", joint=JOINT)
    sheet.board("joint", "duct", joint="clip")
    sheet.board("place-joint", "duct", key="clip")
    sheet.board("way", "duct", **WAY)
    sheet.board("describe", "duct", **PART)
    sheet.board("describe", "cover", name="Cover", kind="cover", level="6", fixed="yes")
    sheet.board("hinder", "duct", target="hole/2", kind="hides")
    index = str(len(sheet.draft().engine.hindrances) - 1)
    sheet.board("rehinder", "duct", index=index, **HINDRANCE)
    sheet.board("round", "duct", index=index, **ROUND, **DOING)
    sheet.board("answer", over="duct", targets="hole/4", answer="free")
    sheet.board("ground", **MORE_GROUND)
    sheet.board("wells", **{f"{name}-1-0": value for name, value in WELL.items()})
    sheet.board("wells", **{"place-1": "2", "place-2": "1"})
    sheet.board("carrier", place="0", **COIL, variants="all")
    sheet.board("carrier-joint", place="0", joint=JOINT)
    prices = "#C-1 14 from Skerry, 12 months"
    sheet.board("upkeep", companions=COMPANION, intervals=INTERVALS, prices=prices)
    return sheet.said


COMPANION = f"""Filter; at 300 200; coils off 1 2; stops; only all; when dark
note by hand
+ 2 Element #F-1
lid: {JOINT}
- Open it | 2 min | undo lid | with pick | does coolant | note slowly
- Close it | 1 min | do up lid | figure duct-bolt | check Lid flush"""
INTERVALS = (
    "filter: 1000 km, 100 h, 12 months, season, severe 500 km, severe 50 h, severe 6 months, "
    "severe season, only all, to-state p. 3; plug: inspect 100 h"
)


def _as_drawn(engine: Engine) -> dict[str, str]:
    """The facts of the drawing as the board sends them when nothing of them changed."""
    layout = engine.layout
    return {
        "shape": layout.shape,
        "mounting": layout.mounting,
        "cycle": layout.cycle,
        "plan": " ".join(map(str, layout.plan)),
        "block": " ".join(map(str, layout.block)),
        "coil_letters": "",
        "waste_spark_pairs": "",
        "main_coil": "",
    }


def _leads(client: TestClient, store: Store) -> set[str]:
    sheet = Sheet(client, store, "ostler-16-flat-four")
    client.post(f"/engines/{sheet.key}/capture", data={"csrf": sheet.csrf})
    ground = {**GROUND, "firing_order": "1 4 3 2", "system": "24 V", "main_coil": "100 100"}
    ground = {**_as_drawn(sheet.draft().engine), **ground}
    sheet.board("carrier-joint", place="0", joint=JOINT)
    sheet.board(
        "carrier", place="0", part_number="L-9", variants=next(iter(sheet.draft().engine.variants))
    )
    sheet.board(
        "ground",
        **ground,
        towers="at 305 385; across 95 mm; left; tower one 12°; "
        "angles 80°, 100°, 80°, 100°; body 70 mm; stand left; cap tab aft; rotor on a key",
        lead_runs="1: 430 420 (straight); 2: 500 mm",
        pieces=f"cap #C-9 is fan-shroud: {JOINT}; rotor #R-8 (turn it gently)",
        timing="pulley 150 mm; marks 0, 6; runs left, seen from flywheel; vacuum connected; "
        "read at the pointer; curve 900: 5 to 8, 2000: 20 to 24; source wm p. 9",
    )
    sheet.board("ground", **ground, timing="pulley 150 mm; source to-state p. 9")
    return sheet.said


PAIRS = "2 5, 1 6, 3 4"


def _banks(client: TestClient, store: Store) -> set[str]:
    sheet = Sheet(client, store, "tarn-six")
    begun = {"csrf": sheet.csrf, "make": "Tarn", "name": "six", "shape": "vee-six"}
    client.post("/engines/new", data=begun)
    sheet.board("wells", **{"bank-1": "front", "bank-2": "rear"})
    return sheet.said


def _pack(client: TestClient, store: Store) -> set[str]:
    with store() as session:
        keys = [row.id for row in sheet_store.sheets(session)]
        packed = next(k for k in keys if sheet_store.sheet(session, k).ignition.pack)
        known = sheet_store.sheet(session, packed)
    sheet = Sheet(client, store, packed)
    client.post(f"/engines/{packed}/capture", data={"csrf": sheet.csrf})
    assert known.ignition.pack
    towers = ", ".join(
        f"{t}={h}"
        for t, h in zip(
            known.ignition.pack.towers, [*known.ignition.pack.towers.values()][::-1], strict=True
        )
    )
    order = " ".join(map(str, known.ignition.firing_order))
    sheet.board(
        "ground",
        **{**_as_drawn(known), **GROUND, "firing_order": order, "waste_spark_pairs": PAIRS},
        towers=f"at 405 385; along 120 mm; lies 80°; {towers}",
        lead_runs="",
    )
    return sheet.said


FIGURE = {
    "value": "24 to 27 N·m",
    "source": "new",
    "document": "Bulletin 9",
    "edition": "2024",
    "kind": "bulletin",
    "page": "3",
    "lubricated": "yes",
    "note": "cold",
    "plus": "90°",
    "confirmed": "measured twice",
}
VARIANT = {
    "name": "Last",
    "key": "",
    "serial_from": "500",
    "serial_to": "900",
    "letters": "Q, R",
    "year_from": "2011",
    "year_to": "2015",
}
PLUG = {
    "part_number": "P-9",
    "thread": "M14×1.25",
    "reach": "19",
    "seat": "conical",
    "hex": "16",
    "points": "12",
    "height": "52",
    "construction": "nickel",
    "plating": "bare",
    "heat_range": "7",
    "resistor": "no",
    "gap_supplied": "0.9",
    "adjustable": "yes",
    "index": "away from the valve",
    "page": "4",
    "confirmed": "measured",
}


def _spec_sheet(client: TestClient, store: Store) -> set[str]:
    sheet = Sheet(client, store, "corvane-20-turbo-four")
    with store() as session:
        known = sheet_store.sheet(session, sheet.key)
    early, source = next(iter(known.variants)), next(iter(known.sources))
    torque = {"key": "plug-torque", "variant": "late"}
    sheet.kept("figures", key="plug-torque", variant=early, variants=early, **FIGURE)
    sheet.kept("figures", **torque, value="26 to 31 N·m", source=source, page="7")
    sheet.kept("figures/settle", **torque, index="2", reason="newer")
    sheet.kept("variants", like=early, **VARIANT)
    sheet.kept("figures/plug-identity", variant="last", source=source, **PLUG)
    sheet.kept("words/de", w0="Wort", w1="Wort")
    return sheet.said
