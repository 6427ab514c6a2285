"""Just enough SVG: elements as text, everything escaped, numbers kept short."""

from html import escape


def el(tag: str, *children: str, **attributes: object) -> str:
    """Return an element. ``class_`` becomes class, underscores become dashes, None is left out."""
    words = "".join(
        f' {_name(key)}="{escape(_value(attribute))}"'
        for key, attribute in attributes.items()
        if attribute is not None
    )
    inner = "".join(children)
    return f"<{tag}{words}>{inner}</{tag}>" if inner else f"<{tag}{words}/>"


def text(x: float, y: float, words: str, **attributes: object) -> str:
    """Return a line of text."""
    return el("text", escape(words), x=x, y=y, **attributes)


def title(words: str) -> str:
    """What a pointer or screen reader is told of an element."""
    return f"<title>{escape(words)}</title>"


def path(points: list[tuple[float, float]], closed: bool = True) -> str:
    """The path data through points."""
    steps = " L".join(f"{_number(x)} {_number(y)}" for x, y in points)
    return f"M{steps}{'Z' if closed else ''}"


def named(drawing: str, name: str) -> str:
    """A whole drawing whose content can be shown again under ``name``."""
    head, content = _parts(drawing)
    return f"{head}{el('g', content, id=name)}</svg>"


def shown_again(drawing: str, name: str) -> str:
    """The same drawing where it stands under ``name`` on the page already."""
    return f"{_parts(drawing)[0]}{el('use', href=f'#{name}')}</svg>"


def _parts(drawing: str) -> tuple[str, str]:
    head, _, content = drawing.partition(">")
    return f"{head}>", content.removesuffix("</svg>")


def _name(key: str) -> str:
    kept = {
        "preserveAspectRatio",
        "viewBox",
        "markerWidth",
        "markerHeight",
        "patternUnits",
        "patternTransform",
    }
    return key if key in kept else key.rstrip("_").replace("_", "-")


def _value(value: object) -> str:
    return _number(value) if isinstance(value, float) else str(value)


def _number(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")
