"""Joints in one line each, as a trainer says them.

``4 hex bolts 10 mm 9 Nm one-time``, ``screw-clamp hose, coolant``, ``press-tab connector``, ``2
clips at 120 340, 180 340 (squeeze from behind)``. The grammar is forgiving about order and small
words; what it does not understand it names. docs/shorthand.md lists the words.
"""

import re
from dataclasses import dataclass
from difflib import get_close_matches

from eldrim.core.base.errors import EngineError, Problem, QuantityError
from eldrim.core.base.quantity import Dimension, Quantity, parse
from eldrim.core.engine.joints import CLAMPS, FASTENERS, JointKind
from eldrim.core.engine.parts import Carries, Head, Joint
from eldrim.core.engine.sizes import read_size
from eldrim.core.words import say_in
from eldrim.core.words.messages import gettext

K = JointKind


def _noun(kind: JointKind, many: bool = False) -> str:
    return say_in("en", f"joint.{kind}.{'many' if many else 'one'}")


_EXTRA: dict[str, JointKind] = {
    "press-tab connector": K.CONNECTOR_PRESS, "plug connector": K.CONNECTOR_PRESS,
    "second-lock connector": K.CONNECTOR_TWO_LOCK, "post": K.POSTS, "posts": K.POSTS,
    "loom clip": K.CLIP, "loom clips": K.CLIP, "tree clip": K.CLIP, "hose": K.HOSE_SPRING_CLAMP,
    "hoses": K.HOSE_SPRING_CLAMP, "seal": K.GASKET, "seals": K.GASKET, "stud-nut": K.NUT,
    "stud-nuts": K.NUT, "quarter-turn": K.QUARTER_TURN, "quarter-turns": K.QUARTER_TURN,
    "jubilee": K.HOSE_SCREW_CLAMP, "jubilees": K.HOSE_SCREW_CLAMP,
    "jubilee clip": K.HOSE_SCREW_CLAMP, "jubilee clips": K.HOSE_SCREW_CLAMP,
    "clamp": K.HOSE_SPRING_CLAMP, "clamps": K.HOSE_SPRING_CLAMP,
    "hose clamp": K.HOSE_SPRING_CLAMP, "hose clamps": K.HOSE_SPRING_CLAMP,
    "over-center clip": K.OVER_CENTER_CLIP, "over-center clips": K.OVER_CENTER_CLIP,
    "union": K.UNION_NUT, "unions": K.UNION_NUT, "flare": K.FLARE_NUT, "flares": K.FLARE_NUT,
}  # fmt: skip
KINDS: dict[str, JointKind] = {
    **{_noun(kind, many): kind for kind in JointKind for many in (False, True)},
    **_EXTRA,
}
HEADS = {
    "hex": Head.HEX,
    "inner-hex": Head.INNER_HEX,
    "six-lobe": Head.SIX_LOBE,
    "outer-six-lobe": Head.OUTER_SIX_LOBE,
    "cross": Head.CROSS,
    "slot": Head.SLOT,
}
# The same heads as a shop calls them.
SHOP_HEADS = {"allen": Head.INNER_HEX, "hex-key": Head.INNER_HEX, "hexagon": Head.HEX}
EVERY_HEAD = {**HEADS, **SHOP_HEADS}
# What a joint may be named by without quotes: the part it is at.
PLACES = ("manifold",)
FLAGS: dict[str, str] = {
    "one-time": "one_time", "once": "one_time", "plastic": "plastic", "isolate": "isolate",
    "mirror": "mirror", "pressurised": "pressurised",
}  # fmt: skip
SOCKETS = {"deep": "deep", "thin-wall": "thin_wall"}
# How the free line to the handle leans, and how far a handle can swing.
_ANGLES = {"lean": "line", "swing": "swing"}
MAX_LENGTH = 600
CARRIES = {carry.value: carry for carry in Carries}
SMALL_WORDS = frozenset(
    {
        "a",
        "an",
        "and",
        "at",
        "carries",
        "carrying",
        "each",
        "for",
        "head",
        "heads",
        "of",
        "the",
        "to",
        "torque",
        "with",
        "x",
    }
)
# What a kind carries unless it is said: a connector is electric, a breather hose needs its word.
USUAL = {
    K.CONNECTOR_PRESS: Carries.ELECTRIC,
    K.CONNECTOR_TWO_LOCK: Carries.ELECTRIC,
    K.CONNECTOR_LEVER: Carries.ELECTRIC,
    K.FUEL_LINE: Carries.FUEL,
    K.COOLANT_LINE: Carries.COOLANT,
    K.CABLE: Carries.MOTION,
}
_NUMBER = r"(?:\d+/\d+|\d+(?:[.,]\d+)?)"
_TORQUE = re.compile(
    rf"{_NUMBER}(?:\s*(?:to|-|–|±)\s*{_NUMBER})?\s*"
    r"(?:n[·.\s]?m|lbf[·.\s-]?ft|ft[\s-]?lbf?s?|lbf[·.\s-]?in|in[\s-]?lbf?s?|kgf?[·.\s]?m)\b",
    re.IGNORECASE,
)
_LENGTH = rf"{_NUMBER}\s*(?:mm|in)\b"
_LOBES = re.compile(r"\b[TE]\d{1,2}\b", re.IGNORECASE)
# "2 nuts hex 10": the number after the head is its size.
_HEADED = re.compile(
    r"\b(hex|hexagon|inner[ -]hex|allen|hex[ -]key)\s+"
    r"(\d{1,2}(?:[.,]\d)?)(?=\s|$)(?!\s*(?:mm|in)\b)",
    re.IGNORECASE,
)
_NAMED = re.compile(rf"\b(below|pocket|room)\s+({_LENGTH})", re.IGNORECASE)
_ANGLE = re.compile(rf"\b(lean|swing)\s+({_NUMBER})\s*(?:°|deg(?:rees)?\b)?", re.IGNORECASE)
_DRIVE = re.compile(r"\b(?:drive\s+(1/4|3/8|1/2)|(1/4|3/8|1/2)(?:\s*in)?\s+drive)\b", re.IGNORECASE)
_STAND = re.compile(r"\bstand\s+(left|right|top|bottom)\b", re.IGNORECASE)
# Places on the plan, a pair of numbers each; a number with a unit is none.
_PAIR = r"\d+(?:\.\d+)?\s+\d+(?:\.\d+)?(?![\d.]|\s*(?:mm|in|n[·.\s]?m|lbf|ft|kg)\b)"
_AT = re.compile(rf"\bat\s+({_PAIR}(?:\s*,\s*{_PAIR})*)", re.IGNORECASE)
# What stands in brackets at the end is said in the steps as it is; a name may hold brackets too.
_NOTE = re.compile(r"((?:[^\"“”]|[\"“][^\"”]*[\"”])*?)\s\((.*)\)")


@dataclass(frozen=True)
class Said:
    """A joint understood. ``torque`` is what it is tightened to, where a number was given."""

    joint: Joint
    torque: Quantity | None = None


def understand(text: str) -> Said:
    """Read one joint. Raises :class:`EngineError` naming the words not understood, and the fix."""
    rest = " ".join(text.split())
    if len(rest) > MAX_LENGTH:
        said = gettext(
            "the line has {rest} characters; one joint takes at most {max_length}",
            rest=len(rest),
            max_length=MAX_LENGTH,
        )
        raise EngineError([Problem(rest[:40], said, gettext("say one joint a line"))])
    fields: dict[str, object] = {}
    if noted := _NOTE.fullmatch(rest):
        rest, fields["note"] = noted[1], noted[2]
    number = re.search(r'#(?:["“]([^"”]+)["”]|(\S+))', rest)
    rest = rest.replace(number[0], " ") if number else rest
    name = re.search(r'["“]([^"”]+)["”]', rest)
    rest = rest.replace(name[0], " ") if name else rest
    rest = _placed(rest, fields)
    torque = _TORQUE.search(rest)
    rest = rest.replace(torque[0], " ") if torque else rest
    for match in _NAMED.finditer(rest):
        fields[match[1].lower()] = _length(match[2])
    rest = _NAMED.sub(" ", rest)
    size = re.search(_LENGTH, rest, re.IGNORECASE) or _LOBES.search(rest)
    if size is None and (headed := _HEADED.search(rest)):
        rest = rest.replace(headed[0], f"{headed[1]} {headed[2]} mm", 1)
        size = re.search(_LENGTH, rest)
    rest = rest.replace(size[0], " ", 1) if size else rest
    if name:
        fields["name"] = name[1]
    if number:
        fields["part_number"] = number[1] or number[2].rstrip(",;")
    if size:
        fields |= _sized(size[0])
    return _understood(text, _plain_words(rest), fields, _torque(torque[0]) if torque else None)


def _placed(rest: str, fields: dict[str, object]) -> str:
    """Take out of a line where the joint sits and how a tool comes to it; return what is left."""
    if found := _AT.search(rest):
        pairs = (pair.split() for pair in found[1].split(","))
        fields["at"] = tuple((float(x), float(y)) for x, y in pairs)
    if drive := _DRIVE.search(rest):
        fields["drive"] = drive[1] or drive[2]
    if stand := _STAND.search(rest):
        fields["stand"] = stand[1].lower()
    for angle in _ANGLE.finditer(rest):
        fields[_ANGLES[angle[1].lower()]] = parse(f"{angle[2]}°", Dimension.ANGLE)
    for pattern in (_AT, _DRIVE, _STAND, _ANGLE):
        rest = pattern.sub(" ", rest)
    return rest


def apart(text: str, mark: str) -> list[str]:
    """Joints or clauses apart by a mark; one inside a name or a note does not count."""
    pattern = rf"(?:[^{re.escape(mark)}\"“(]|[\"“][^\"”]*[\"”]|\([^)]*\)|[\"“(])+"
    return [one.strip() for one in re.findall(pattern, text) if one.strip()]


def _plain_words(text: str) -> list[str]:
    plain = text.lower().replace(",", " ").replace(";", " ").replace("inner hex", "inner-hex")
    plain = (
        plain.replace("hex key", "hex-key")
        .replace("six lobe", "six-lobe")
        .replace("outer six-lobe", "outer-six-lobe")
    )
    return plain.replace("thin wall", "thin-wall").replace("×", " x ").split()


def _sized(text: str) -> dict[str, object]:
    """A size, and the head that the number of a six-lobe says with it."""
    head = {"T": Head.SIX_LOBE, "E": Head.OUTER_SIX_LOBE}.get(text[0].upper())
    try:
        return {"size": read_size(text), **({"head": head} if head else {})}
    except QuantityError as error:
        raise EngineError(
            [Problem(text, str(error), gettext("write it as 10 mm or T30"))]
        ) from error


def _understood(
    text: str, words: list[str], fields: dict[str, object], torque: Quantity | None
) -> Said:
    kind, words = _kind(text, words)
    fields |= {"kind": kind, "carries": USUAL.get(kind, Carries.NO_ENTRY)}
    if kind is K.HOSE_SPRING_CLAMP and "size" in fields:
        # A spring clamp has no head to put a tool on: the one with a size is screwed.
        fields["kind"] = kind = K.HOSE_SCREW_CLAMP
    stated = _from_words(words)
    # A name in quotes goes before the place a joint is at.
    place = stated.pop("name", None)
    fields |= stated
    if place:
        fields.setdefault("name", place)
    if kind in FASTENERS:
        fields.setdefault("head", Head.CROSS if kind is K.SCREW else Head.HEX)
        if "size" not in fields:
            fix = gettext("add its size across flats, as 10 mm")
            raise EngineError([Problem(text, gettext("a fastener needs its size"), fix)])
    elif kind in CLAMPS and "size" in fields:
        fields.setdefault("head", Head.HEX)
    elif "size" in fields:
        said = gettext("a {kind} has no size", kind=_noun(kind))
        raise EngineError([Problem(text, said, gettext("leave the size out"))])
    if kind not in FASTENERS and torque is not None:
        said = gettext("a {kind} has no torque", kind=_noun(kind))
        raise EngineError([Problem(text, said, gettext("leave the torque out"))])
    return Said(Joint.model_validate(fields), torque)


def _from_words(words: list[str]) -> dict[str, object]:
    """The fields of a joint its remaining words state; refuses words that say nothing known."""
    fields: dict[str, object] = {}
    strange = []
    for word in words:
        if re.fullmatch(r"\d+x?", word):
            fields["count"] = int(word.rstrip("x"))
        elif word in EVERY_HEAD:
            fields["head"] = EVERY_HEAD[word]
        elif word in PLACES:
            fields["name"] = word
        elif word in SOCKETS:
            fields["socket"] = SOCKETS[word]
        elif word in FLAGS:
            fields[FLAGS[word]] = True
        elif word in CARRIES:
            fields["carries"] = CARRIES[word]
        elif word not in SMALL_WORDS:
            strange.append(word)
    if strange:
        raise EngineError([_not_understood(w) for w in strange])
    return fields


def _kind(text: str, words: list[str]) -> tuple[JointKind, list[str]]:
    """The longest name of a kind among the words, and the words without it."""
    for length in (3, 2, 1):
        for start in range(len(words) - length + 1):
            kind = KINDS.get(" ".join(words[start : start + length]))
            if kind is not None:
                return kind, words[:start] + words[start + length :]
    known = ", ".join(sorted(map(_noun, JointKind)))
    raise EngineError(
        [
            Problem(
                text, gettext("says no kind of joint"), gettext("use one of {known}", known=known)
            )
        ]
    )


def _not_understood(word: str) -> Problem:
    # A head is never guessed: the wrong one rounds it off.
    known = sorted({*FLAGS, *SOCKETS, *CARRIES, *KINDS})
    near = get_close_matches(word, known, n=3, cutoff=0.6)
    fix = (
        gettext("did you mean {near}?", near=", ".join(near))
        if near
        else gettext('put a name in quotes: "air box"')
    )
    return Problem(word, gettext("is not understood"), fix)


def _length(text: str) -> Quantity:
    return parse(text, Dimension.LENGTH)


def _torque(text: str) -> Quantity:
    try:
        return parse(text, Dimension.TORQUE)
    except QuantityError as error:
        raise EngineError([Problem(text, str(error), gettext("write it as 9 N·m"))]) from error


def shorthand(joint: Joint, torque: str = "") -> str:
    """The line that means a joint; understanding it again gives the same joint."""
    head = next((word for word, hole in HEADS.items() if joint.head and hole is joint.head), "")
    count = str(joint.count) if joint.count > 1 else ""
    words = [count, head, _noun(joint.kind, joint.count > 1), str(joint.size or ""), torque]
    words += [word for word, socket in SOCKETS.items() if socket == joint.socket]
    words += [*_where_words(joint), *_kept_words(joint)]
    return " ".join(word for word in words if word)


def _where_words(joint: Joint) -> list[str]:
    """How it is reached: depths, angles, drive and standing place."""
    stated = [(name, getattr(joint, name)) for name in ("below", "pocket", "room")]
    stated += [(word, getattr(joint, name)) for word, name in _ANGLES.items()]
    stated += [("drive", joint.drive), ("stand", joint.stand)]
    return [f"{word} {value}" for word, value in stated if value]


def _kept_words(joint: Joint) -> list[str]:
    """What it carries, what is marked of it, where it is, and its own words."""
    carried = joint.carries is not USUAL.get(joint.kind, Carries.NO_ENTRY)
    words = [joint.carries.value] if carried else []
    words += [key for key, flag in FLAGS.items() if getattr(joint, flag) and key != "once"]
    places = ", ".join(f"{x:g} {y:g}" for x, y in joint.at)
    words += [f"at {places}" if places else "", f'"{joint.name}"' if joint.name else ""]
    return [*words, numbered(joint.part_number or ""), f"({joint.note})" if joint.note else ""]


def numbered(number: str) -> str:
    """A part number as it is typed: in quotes where it has blanks."""
    return f'#"{number}"' if " " in number else f"#{number}".rstrip("#")


def completions(typed: str) -> list[str]:
    """Words that could come next, from what the grammar knows."""
    last = typed.lower().split()[-1] if typed.split() else ""
    known = [*KINDS, *HEADS, *SHOP_HEADS, *FLAGS, *SOCKETS, *CARRIES]
    return sorted({w for w in known if last and w.startswith(last) and w != last})[:8]
