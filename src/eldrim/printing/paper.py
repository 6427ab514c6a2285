"""Pages laid out for paper: templates and style sheets beside this module, made into PDF."""

from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from markupsafe import Markup

from eldrim.core.procedure.whole_job.tool_words import tool_words
from eldrim.core.words import say
from eldrim.core.words.language import moment_words
from eldrim.printing.press import PRESS

HERE = Path(__file__).parent
# The pages on the screen have the same typeface.
FONT = HERE.parent / "web" / "static" / "vendor" / "atkinson-next.woff2"
TYPEFACE = f'@font-face {{ font-family: "Sheet"; src: url("{FONT.as_uri()}"); }}'
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
    style = Markup(_style(name))
    return PAGES.get_template(f"{name}.html.jinja").render(style=style, **values)


def _style(name: str) -> str:
    return f"{TYPEFACE}{(HERE / f'{name}.css').read_text()}"


def ink(svg: str) -> Markup:
    """A drawing with its lines in black: an inline drawing does not see the page's own style."""
    style = (HERE / "drawings.css").read_text()
    head, _, rest = svg.partition(">")
    return Markup(f"{head}><style>{style}</style>{rest}")


def paper(name: str, **values: Any) -> bytes:
    """The page ``name`` as PDF."""
    return PRESS.lay_out(sheet(name, **values))
