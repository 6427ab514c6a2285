"""Do the core's tests notice? Small faults put into its rules, one at a time: `bin/bench mutants`.

A fixed draw of faults, the same each time as long as the code is: a comparison turned or shifted, a
condition negated, two branches exchanged, a sum turned, one element of a list dropped, a number
moved. Each lies in a copy of the source; the core's tests run against it and should fail.
Prints each survivor and the share that was killed.

bin/bench mutants [HOW MANY [MODULE]]: fewer, or only those of modules whose path holds MODULE.
"""

import ast
import copy
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

ROOT = Path(__file__).parents[1]
# A catalogue of tools, no rules.
CATALOGUE = "stock.py"
PACKAGES = ("procedure", "rules", "run", "tools")
HOW_MANY = 150
SEED = 12
WORKERS = 2
FIELD_LIMITS = ("Field", "StringConstraints")
MOST_SECONDS = 240
# The quick and telling ones first: most faults die there.
FIRST = (
    "test_plans",
    "test_matrices",
    "test_run",
    "test_setup_changes",
    "test_torque",
    "test_rules",
    "test_procedure",
    "test_joints",
    "test_tools",
)
COMPARED: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
    ast.In: ast.NotIn, ast.NotIn: ast.In,
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt,
}  # fmt: skip
SUMS: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult,
    ast.BitOr: ast.BitAnd, ast.BitXor: ast.BitOr,
}  # fmt: skip


@dataclass(frozen=True)
class Mutant:
    """One fault: the module, the place of the node in a walk through it, and what is done to it."""

    module: str
    place: int
    line: int
    what: str

    def __str__(self) -> str:
        return f"{self.module}:{self.line} {self.what}"


def faults(node: ast.AST) -> Iterator[str]:
    """What can be done to a node."""
    match node:
        case ast.Compare(ops=[operator]) if type(operator) in COMPARED:
            yield "comparison turned"
        case ast.BoolOp():
            yield "and for or"
        case ast.UnaryOp(op=ast.Not()):
            yield "not left out"
        case ast.IfExp():
            yield "branches exchanged"
        case ast.If() if not isinstance(node.test, ast.NamedExpr):
            yield "condition negated"
        case ast.BinOp(op=operator) if type(operator) in SUMS and not _text(node):
            yield "sum turned"
        case ast.Tuple(elts=elements, ctx=ast.Load()) | ast.Set(elts=elements) if len(elements) > 1:
            yield "element dropped"
        case ast.Constant(value=bool()):
            yield "truth turned"
        case ast.Constant(value=int() | float()):
            yield "number moved"
        case _:
            pass


def _text(node: ast.BinOp) -> bool:
    """Whether a sum joins texts or types, where turning it would only raise."""
    parts = [n for n in ast.walk(node) if isinstance(n, ast.Constant)]
    types = isinstance(node.op, ast.BitOr) and isinstance(node.right, ast.Constant | ast.Name)
    return types or any(isinstance(p.value, str) for p in parts)


def apply(node: ast.AST, what: str) -> ast.AST:
    """The node with the fault in it."""
    node = copy.deepcopy(node)
    match node:
        case ast.Compare():
            node.ops = [COMPARED[type(node.ops[0])]()]
        case ast.BoolOp():
            node.op = ast.Or() if isinstance(node.op, ast.And) else ast.And()
        case ast.UnaryOp():
            return node.operand
        case ast.IfExp():
            node.body, node.orelse = node.orelse, node.body
        case ast.If():
            node.test = ast.UnaryOp(ast.Not(), node.test)
        case ast.BinOp():
            node.op = SUMS[type(node.op)]()
        case ast.Tuple() | ast.Set():
            node.elts = node.elts[:-1]
        case ast.Constant(value=bool()):
            node.value = not node.value
        case ast.Constant():
            node.value = node.value * 2 + 1  # type: ignore[operator]
        case _:
            raise ValueError(what)
    return node


class _Put(ast.NodeTransformer):
    """Puts the fault at one node of a tree."""

    def __init__(self, target: ast.AST, made: ast.AST) -> None:
        self.target, self.made = target, made

    def visit(self, node: ast.AST) -> ast.AST:
        return self.made if node is self.target else self.generic_visit(node)


def _inside(tree: ast.Module) -> list[ast.AST]:
    """The nodes of a module's code that runs: bodies of functions and tables, not annotations."""
    left_out: set[int] = set()
    for node in ast.walk(tree):
        hidden: list[ast.AST | None] = []
        if isinstance(node, ast.arg | ast.AnnAssign):
            hidden.append(node.annotation)
        if isinstance(node, ast.FunctionDef):
            hidden += [node.returns, *node.decorator_list]
        # What a field refuses to take is a limit of input, not a rule of the craft.
        if isinstance(node, ast.Call) and ast.unparse(node.func) in FIELD_LIMITS:
            hidden += list(node.keywords)
        if isinstance(node, ast.If) and "TYPE_CHECKING" in ast.dump(node.test):
            hidden.append(node)
        left_out |= {id(n) for part in hidden if part is not None for n in ast.walk(part)}
    return [node for node in ast.walk(tree) if id(node) not in left_out]


def mutants(only: str = "") -> list[Mutant]:
    """Every fault that can be put into the rules."""
    found = []
    for package in PACKAGES:
        for path in sorted((ROOT / "src/eldrim/core" / package).glob("*.py")):
            module = str(path.relative_to(ROOT / "src"))
            if only not in module or path.name == CATALOGUE:
                continue
            for place, node in enumerate(_inside(ast.parse(path.read_text()))):
                line = getattr(node, "lineno", 0)
                found += [Mutant(module, place, line, what) for what in faults(node)]
    return found


def drawn(how_many: int, only: str = "") -> list[Mutant]:
    """A fixed draw of them."""
    every = mutants(only)
    return sorted(
        random.Random(SEED).sample(every, min(how_many, len(every))),
        key=lambda mutant: (mutant.module, mutant.line, mutant.place),
    )


def survives(mutant: Mutant, copy_of_source: Path) -> bool:
    """Whether the core's tests pass with this fault in a copy of the source."""
    path = copy_of_source / mutant.module
    sound = path.read_text()
    tree = ast.parse(sound)
    node = _inside(tree)[mutant.place]
    path.write_text(ast.unparse(ast.fix_missing_locations(
        _Put(node, apply(node, mutant.what)).visit(tree))))  # fmt: skip
    try:
        return _tests_pass(copy_of_source)
    finally:
        path.write_text(sound)


def _tests_pass(source: Path) -> bool:
    first = [f"tests/core/{name}.py" for name in FIRST]
    rest = sorted(str(p.relative_to(ROOT)) for p in (ROOT / "tests/core").rglob("test_*.py"))
    files = [*first, *(name for name in rest if name not in first)]
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *files]
    environment = {"PYTHONPATH": f"{source}:{ROOT}", "PATH": "/usr/bin:/bin", "HOME": str(source)}
    environment["PYTHONDONTWRITEBYTECODE"] = "1"
    try:
        done = subprocess.run(
            command, cwd=ROOT, env=environment, capture_output=True, timeout=MOST_SECONDS
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def main() -> int:
    """Put each fault in, run the tests, and tell what survived."""
    how_many = int(sys.argv[1]) if len(sys.argv) > 1 else HOW_MANY
    chosen = drawn(how_many, sys.argv[2] if len(sys.argv) > 2 else "")
    with tempfile.TemporaryDirectory() as home:
        free: Queue[Path] = Queue()
        for number in range(WORKERS):
            shutil.copytree(ROOT / "src", Path(home) / str(number))
            free.put(Path(home) / str(number))

        def tried(mutant: Mutant) -> bool:
            source = free.get()
            try:
                alive = survives(mutant, source)
            finally:
                free.put(source)
            print(f"{'SURVIVED' if alive else 'killed':9}{mutant}", flush=True)
            return alive

        with ThreadPoolExecutor(WORKERS) as pool:
            alive = [m for m, lives in zip(chosen, pool.map(tried, chosen), strict=True) if lives]
    killed = len(chosen) - len(alive)
    share = 100 * killed / max(len(chosen), 1)
    print(f"\n{killed} of {len(chosen)} killed, {share:.0f} %. Survivors:")
    print("\n".join(f"  {mutant}" for mutant in alive) or "  none")
    return 0


if __name__ == "__main__":
    sys.exit(main())
