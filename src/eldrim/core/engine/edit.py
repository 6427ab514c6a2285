"""Changing one fact of a sheet: each change makes the next revision; the old one stays."""

from collections.abc import Collection

from eldrim.core.base.errors import EngineError, Problem
from eldrim.core.engine.model import TO_STATE, Engine, Figure, Plug, Source, applies
from eldrim.core.words.messages import gettext


def put_figure(engine: Engine, key: str, figure: Figure, index: int | None = None) -> Engine:
    """State a figure for ``key``, or with ``index`` put it in the place of one stated before.

    A figure whose value changes loses its settlement: what was weighed is no longer there.
    """
    stated = list(engine.figures.get(key, ()))
    if index is None:
        stated.append(figure)
    else:
        _known(engine, key, index)
        stated[index] = figure
    return _with(engine, key, tuple(stated))


def take_away(engine: Engine, key: str, index: int) -> Engine:
    """Take one stated figure off the sheet."""
    _known(engine, key, index)
    kept = tuple(figure for i, figure in enumerate(engine.figures[key]) if i != index)
    return _with(engine, key, kept)


def settle_figure(engine: Engine, key: str, index: int, reason: str) -> Engine:
    """Let one of several disagreeing figures hold, with the reason; the others are kept beside it.

    Whatever was settled before on a variant they share is settled no more.
    """
    _known(engine, key, index)
    chosen = engine.figures[key][index]
    if not reason.strip():
        raise EngineError(
            [Problem("reason", gettext("say why this source holds"), gettext("one line"))]
        )

    def again(place: int, figure: Figure) -> Figure:
        if place == index:
            return figure.model_copy(update={"settled": reason.strip()})
        return (
            figure.model_copy(update={"settled": ""}) if _meet(engine, figure, chosen) else figure
        )

    return _with(engine, key, tuple(again(i, f) for i, f in enumerate(engine.figures[key])))


def _meet(engine: Engine, one: Figure, other: Figure) -> bool:
    """Whether two figures speak of a variant in common, both of dry or both of greased threads."""
    common = any(
        applies(one.variants, variant) and applies(other.variants, variant)
        for variant in engine.variants
    )
    return common and one.lubricated == other.lubricated


def put_plug(engine: Engine, variant: str, plug: Plug) -> Engine:
    """Describe the plug of a variant anew; other variants of the same entry keep what they had."""
    old = next(p for p in engine.plugs if applies(p.variants, variant))
    others = tuple(key for key in (old.variants or tuple(engine.variants)) if key != variant)
    made = plug.model_copy(update={"variants": (variant,) if others else old.variants})
    kept = [p for p in engine.plugs if p is not old]
    rest = [old.model_copy(update={"variants": others})] if others else []
    plugs = (*kept, *rest, made)
    return engine.model_copy(update={"plugs": plugs, "revision": engine.revision + 1})


def put_source(engine: Engine, key: str, source: Source) -> Engine:
    """Name a document figures come from."""
    return engine.model_copy(update={"sources": {**engine.sources, key: source}})


def to_be_sourced(engine: Engine) -> dict[str, Figure]:
    """The figures with no source yet, each by ``key/place``."""
    return {
        f"{key}/{place}": figure
        for key, stated in engine.figures.items()
        for place, figure in enumerate(stated)
        if figure.source == TO_STATE
    }


def source_figures(engine: Engine, places: Collection[str], source: str, page: str) -> Engine:
    """Give figures that had no source one and the same, in one revision; others stay."""
    if source not in engine.sources or source == TO_STATE:
        raise EngineError(
            [Problem("source", gettext("is not named"), gettext("choose one, or name another"))]
        )
    chosen = set(places) & set(to_be_sourced(engine))
    if not chosen:
        raise EngineError(
            [Problem("figures", gettext("none is chosen"), gettext("tick those it is for"))]
        )
    stated = {"source": source, "page": page.strip() or "none"}
    figures = {
        key: tuple(
            Figure.model_validate({**dict(figure), **stated})
            if f"{key}/{place}" in chosen
            else figure
            for place, figure in enumerate(found)
        )
        for key, found in engine.figures.items()
    }
    return engine.model_copy(update={"figures": figures, "revision": engine.revision + 1})


def _known(engine: Engine, key: str, index: int) -> None:
    if not 0 <= index < len(engine.figures.get(key, ())):
        raise EngineError(
            [
                Problem(
                    f"figures.{key}", gettext("is no longer there"), gettext("load the page again")
                )
            ]
        )


def _with(engine: Engine, key: str, figures: tuple[Figure, ...]) -> Engine:
    every = {k: figure for k, figure in engine.figures.items() if k != key}
    if figures:
        every = {k: (figures if k == key else f) for k, f in engine.figures.items()}
        every.setdefault(key, figures)
    return engine.model_copy(update={"figures": every, "revision": engine.revision + 1})
