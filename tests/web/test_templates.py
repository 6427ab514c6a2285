"""Templates read like text, and what they send is what is meant."""

import re
from pathlib import Path

import eldrim
from tests.tables import table

TEMPLATES = sorted(Path(eldrim.__path__[0]).rglob("*.jinja"))
WEB = Path(eldrim.__path__[0]) / "web"
IN_JINJA = re.compile(r"\{\{.*?\}\}|\{%.*?%\}|\{#.*?#\}", re.DOTALL)


@table("path", TEMPLATES, ids=lambda p: f"{p.parent.name}/{p.name}")
def test_no_value_of_an_attribute_is_broken_over_lines(path: Path) -> None:
    """A line end inside a value is shown as blanks."""
    plain = IN_JINJA.sub("x", path.read_text())
    assert re.findall(r'="[^"]*\n[^"]*"', plain) == []


# Sent without a sign-in, and refused from another site by where it comes from.
NOBODY_YET = ("sign_in.html.jinja", "begin.html.jinja", "language.html.jinja")
SIGNED_IN = [path for path in TEMPLATES if path.name not in NOBODY_YET]


@table("path", SIGNED_IN, ids=lambda p: f"{p.parent.name}/{p.name}")
def test_every_form_that_writes_carries_its_token(path: Path) -> None:
    """By the field every page has, or by a macro that has it, its own or an imported one."""
    text = path.read_text()
    imported = re.findall(r'from "([^"]+)" import', text)
    known = [(WEB / name).read_text() for name in imported]
    every = re.findall(
        r"macro (\w+)\([^)]*\) %\}(.*?)\{% endmacro", "".join([*known, text]), re.DOTALL
    )
    senders = ["csrf_field"]
    for name, body in every:
        if any(f"{sender}(" in body for sender in senders):
            senders.append(name)
    forms = re.findall(r'<form[^>]*(?:method="post"|act\().*?</form>', text, re.DOTALL)
    assert all(re.search(rf"\b({'|'.join(senders)})\(", form) for form in forms)
