"""Tools in German. A tool's name is put together from these and its sizes (core/tools/crib.py)."""

import re

# The longer first: a plug socket is no socket.
NAMES: tuple[tuple[str, str], ...] = (
    ("thin-wall plug socket", "dünnwandige Zündkerzennuss"),
    ("short plug socket", "kurze Zündkerzennuss"),
    ("plug socket", "Zündkerzennuss"),
    ("deep socket", "lange Nuss"),
    ("socket", "Nuss"),
    ("locking extension", "verriegelnde Verlängerung"),
    ("wobble extension", "Wackelverlängerung"),
    ("extension", "Verlängerung"),
    ("flex-head ratchet", "Gelenkratsche"),
    ("ratchet", "Ratsche"),
    ("breaker bar", "Hebelgriff"),
    ("sliding T-bar", "Quergriff"),
    ("speed handle", "Kurbelgriff"),
    ("torque wrench", "Drehmomentschlüssel"),
    ("universal joint", "Kardangelenk"),
    ("drive reducer", "Reduzierstück"),
    ("crow's foot", "Hahnenfußschlüssel"),
    ("inner-hex bit", "Innensechskant-Bit"),
    ("six-lobe bit", "Sechsrund-Bit"),
    ("slot bit", "Schlitz-Bit"),
    ("cross bit", "Kreuzschlitz-Bit"),
    ("thread chaser", "Gewindenachschneider"),
    ("air gun", "Druckluftpistole"),
    ("clamp pliers", "Schellenzange"),
    ("code reader", "Codeleser"),
    ("fuel line tool", "Werkzeug für Kraftstoffleitungen"),
    ("infrared thermometer", "Infrarotthermometer"),
    ("lid prop", "Deckelstütze"),
    ("mirror and light", "Spiegel und Lampe"),
    ("light", "Lampe"),
    ("multimeter", "Multimeter"),
    ("old boot or hose", "alter Stecker oder Schlauch"),
    ("opening plugs", "Verschlussstopfen"),
    ("pick-up magnet", "Greifmagnet"),
    ("plug tray", "Kerzenschale"),
    ("screwdriver, flat", "Schraubendreher, Schlitz"),
    ("tank prop", "Tankstütze"),
    ("vacuum with thin nozzle", "Staubsauger mit dünner Düse"),
    ("wire gauge", "Drahtlehre"),
    ("thread compound", "Gewindepaste"),
    ("thin oil", "dünnes Öl"),
    ("dielectric grease", "Isolierfett"),
    ("12-point", "Zwölfkant"),
)
_GERMAN = dict(NAMES)
_ANY = re.compile("|".join(rf"(?<![\w-]){re.escape(n)}(?![\w-])" for n, _ in NAMES))


def german_tool(name: str) -> str:
    """The tool's name in German; what the table does not know stays as the shop calls it."""
    said = _ANY.sub(lambda m: _GERMAN[m[0]], name)
    said = re.sub(r"(?<=[\d¼⅜½]) in\b", " Zoll", said)
    said = re.sub(
        r"(?<=[\dl]) to (?=[\d¼⅜½])", " bis " if "N·m" in said or "lbf" in said else " auf ", said
    )
    return re.sub(r"(?<=\d)\.(?=\d)", ",", said)
