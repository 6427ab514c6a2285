"""The figures the house holds itself to, and where it does not: `bin/house`.

Prints each figure with its bound, and under it what is worst. Ends with 1 when a bound is broken.
"""

import ast
import re
import sys
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from grimp import build_graph

SOURCE = Path("src/eldrim")
CORE = "eldrim.core"
SHOWN = 5
SHORT_NAME = 3
MAX_SKIPS = 39
MAX_SHORT_NAMES = 8.0
MAX_COMPLEXITY = 12
# What is still over what is meant. These only ever go down; the aim stands behind each.
OVER_COMPLEX = 101  # aim 0
PRIVATE_ONCE = 16.9  # aim 10 %
RIDDLES = 1_478  # aim 0
RIDDLE_NAMES = ("one", "found", "said", "met", "told")
MAX_PARAMETERS = 6
MAX_TEMPLATE_LINE = 160


@dataclass(frozen=True)
class Figure:
    """One figure of the house: what it is, its bound if it has one, and the worst places."""

    name: str
    value: float
    bound: float | None = None
    worst: tuple[str, ...] = ()
    unit: str = ""

    @property
    def broken(self) -> bool:
        """Whether the figure is over its bound."""
        return self.bound is not None and self.value > self.bound

    def __str__(self) -> str:
        bound = "" if self.bound is None else f"  (at most {self.bound:g}{self.unit})"
        mark = "BROKEN" if self.broken else "ok" if self.bound is not None else ""
        lines = [f"{self.name:50} {self.value:>7.5g}{self.unit}{bound}  {mark}".rstrip()]
        return "\n".join([*lines, *(f"    {w}" for w in self.worst)])


def circles() -> Figure:
    """Packages inside the core that import each other, by way of others too."""
    graph = build_graph("eldrim")
    packages = sorted(graph.find_children(CORE))
    imports = {
        p: {q for q in packages if q != p and graph.direct_import_exists(
            importer=p, imported=q, as_packages=True)}
        for p in packages
    }  # fmt: skip

    def reaches(start: str) -> set[str]:
        seen: set[str] = set()
        waiting = list(imports[start])
        while waiting:
            package = waiting.pop()
            if package not in seen:
                seen.add(package)
                waiting += imports[package]
        return seen

    round_trips = [p.removeprefix(f"{CORE}.") for p in packages if p in reaches(p)]
    return Figure("core packages in a circle", len(round_trips), 0, tuple(round_trips))


def skips(sources: dict[Path, str]) -> Figure:
    """Places where the formatter is told to look away."""
    counts = {p: s.count("# fmt: skip") + s.count("# fmt: off") for p, s in sources.items()}
    worst = sorted(((n, p) for p, n in counts.items() if n), reverse=True)[:SHOWN]
    lines = tuple(f"{n:4} {p}" for n, p in worst)
    return Figure("formatter skips", sum(counts.values()), MAX_SKIPS, lines)


def longest_files(sources: dict[Path, str]) -> Figure:
    """The longest modules, in lines."""
    sizes = sorted(((s.count("\n"), p) for p, s in sources.items()), reverse=True)
    return Figure("longest module, lines", sizes[0][0], None, _rows(sizes))


def functions(trees: dict[Path, ast.Module]) -> Iterator[tuple[Path, ast.FunctionDef]]:
    """Every function with its file."""
    for path, tree in trees.items():
        for node in ast.walk(tree):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                yield path, node  # type: ignore[misc]


def longest_functions(trees: dict[Path, ast.Module]) -> Figure:
    """The longest functions, in lines: to be looked at, since a thought has the length it needs."""
    sizes = sorted(
        (((f.end_lineno or f.lineno) - f.lineno + 1, f"{p} {f.name}") for p, f in functions(trees)),
        reverse=True,
    )
    return Figure("longest function, lines", sizes[0][0], None, _rows(sizes))


def complexity(function: ast.AST) -> int:
    """The cyclomatic complexity of a function: one way through it, and one more for each branch.

    A comprehension branches as the loop it stands for would. Functions inside count for themselves.
    """
    count, waiting = 1, list(ast.iter_child_nodes(function))
    while waiting:
        node = waiting.pop()
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef | ast.Lambda | ast.ClassDef):
            continue
        match node:
            case ast.BoolOp(values=values):
                count += len(values) - 1
            case ast.comprehension(ifs=conditions):
                count += 1 + len(conditions)
            case ast.match_case(pattern=ast.MatchAs(pattern=None, name=None), guard=None):
                pass
            case ast.If() | ast.For() | ast.AsyncFor() | ast.While() | ast.IfExp():
                count += 1
            case ast.ExceptHandler() | ast.match_case():
                count += 1
            case _:
                pass
        waiting += ast.iter_child_nodes(node)
    return count


def complex_functions(trees: dict[Path, ast.Module]) -> Figure:
    """Functions with more branches than one reading holds."""
    sizes = [(complexity(f), f"{p} {f.name}") for p, f in functions(trees)]
    over = sorted((size for size in sizes if size[0] > MAX_COMPLEXITY), reverse=True)
    name = f"functions over complexity {MAX_COMPLEXITY}"
    return Figure(name, len(over), OVER_COMPLEX, _rows(over))


def splinters(sources: dict[Path, str], trees: dict[Path, ast.Module]) -> Figure:
    """Private functions that are used at one place, among all: each is a jump for its reader."""
    words = Counter(word for text in sources.values() for word in re.findall(r"\b_\w+", text))
    every = list(functions(trees))
    once = [(p, f) for p, f in every if _private(f.name) and words[f.name] == 2]
    by_file = Counter(path for path, _ in once)
    worst = sorted(((n, path) for path, n in by_file.items()), reverse=True)
    share = 100 * len(once) / len(every)
    return Figure("private functions used once", share, PRIVATE_ONCE, _rows(worst), " %")


def _private(name: str) -> bool:
    return name.startswith("_") and not name.startswith("__")


def riddles(trees: dict[Path, ast.Module]) -> Figure:
    """Names that do not say the thing."""
    by_file: Counter[Path] = Counter()
    for path, tree in trees.items():
        by_file[path] = sum(name in RIDDLE_NAMES for name in bound(tree))
    worst = sorted(((n, path) for path, n in by_file.items()), reverse=True)
    names = ", ".join(RIDDLE_NAMES)
    return Figure(f"names such as {names}", sum(by_file.values()), RIDDLES, _rows(worst))


def parameters(sources: dict[Path, str], trees: dict[Path, ast.Module]) -> Figure:
    """Functions of many parameters that do not say why (``noqa: PLR0913``)."""
    found = []
    for path, function in functions(trees):
        arguments = [*function.args.posonlyargs, *function.args.args, *function.args.kwonlyargs]
        count = len([a for a in arguments if a.arg not in ("self", "cls")])
        excused = "PLR0913" in sources[path].splitlines()[function.lineno - 1]
        if count > MAX_PARAMETERS and not excused:
            found.append((count, f"{path} {function.name}"))
    name = f"functions over {MAX_PARAMETERS} parameters, unexcused"
    return Figure(name, len(found), 0, _rows(sorted(found, reverse=True)))


def short_names(trees: dict[Path, ast.Module]) -> Figure:
    """The share of names under three letters among all places where a name is bound."""
    names = [(len(name), name, path) for path, tree in trees.items() for name in bound(tree)]
    short = [(path, name) for length, name, path in names if length < SHORT_NAME and name != "_"]
    by_file: dict[Path, int] = {}
    for path, _ in short:
        by_file[path] = by_file.get(path, 0) + 1
    worst = sorted(((n, p) for p, n in by_file.items()), reverse=True)
    share = 100 * len(short) / len(names)
    return Figure("names under three letters", share, MAX_SHORT_NAMES, _rows(worst), " %")


def bound(tree: ast.Module) -> Iterator[str]:
    """Every name a module binds: definitions, parameters, variables, loop names."""
    for node in ast.walk(tree):
        match node:
            case ast.FunctionDef() | ast.AsyncFunctionDef() | ast.ClassDef():
                yield node.name
            case ast.arg():
                yield node.arg
            case ast.Name(ctx=ast.Store()):
                yield node.id
            case ast.alias(asname=str() as name):
                yield name
            case _:
                pass


def template_lines() -> Figure:
    """The longest lines of the templates."""
    lines = [
        (len(line), f"{path}:{number}")
        for path in sorted(SOURCE.rglob("*.jinja"))
        for number, line in enumerate(path.read_text().splitlines(), 1)
    ]
    lines.sort(reverse=True)
    return Figure("longest template line", lines[0][0], MAX_TEMPLATE_LINE, _rows(lines))


def _rows(found: list[tuple[int, str]] | list[tuple[int, Path]]) -> tuple[str, ...]:
    return tuple(f"{n:4} {where}" for n, where in found[:SHOWN])


def figures() -> list[Figure]:
    """All figures of the house as it stands."""
    sources = {p: p.read_text() for p in sorted(SOURCE.rglob("*.py"))}
    trees = {p: ast.parse(s) for p, s in sources.items() if "migrations" not in p.parts}
    return [
        circles(),
        skips(sources),
        longest_files(sources),
        longest_functions(trees),
        complex_functions(trees),
        splinters(sources, trees),
        riddles(trees),
        parameters(sources, trees),
        short_names(trees),
        template_lines(),
    ]


def main() -> int:
    """Print the figures; 1 when a bound is broken."""
    found = figures()
    print("\n".join(map(str, found)))
    return int(any(f.broken for f in found))


if __name__ == "__main__":
    sys.exit(main())
