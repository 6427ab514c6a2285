"""Pages laid out for paper: templates and style sheets beside this module, made into PDF."""

from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from markupsafe import Markup

from eldrim.core.language import moment_words
from eldrim.core.procedure.tool_words import tool_words
from eldrim.core.words import say
from eldrim.printing.press import PRESS

HERE = Path(__file__).parent
PAGES = Environment(
    loader=FileSystemLoader(HERE),
    autoescape=select_autoescape(["jinja"], default=True),
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)
PAGES.globals.update(say=say, tool_words=tool_words)
PAGES.filters.update(moment=moment_words)


def sheet(name: str, **values: Any) -> str:
    """The page ``name`` as the HTML it is printed from."""
    style = Markup((HERE / f"{name}.css").read_text())
    return PAGES.get_template(f"{name}.html.jinja").render(style=style, **values)


def paper(name: str, **values: Any) -> bytes:
    """The page ``name`` as PDF."""
    return PRESS.lay_out(sheet(name, **values))
