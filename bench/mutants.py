"""Do the core's tests notice? Small faults put into its rules, one at a time: `bin/bench mutants`.

A fixed draw from the bodies of the functions of all packages of the core, the same each time as
long as the code is: a comparison turned or shifted, a condition negated, two branches exchanged, a
sum turned, one element of a list dropped, a number moved. Each lies in a copy of the source. First
the tests of the mutant's own package run against it, then, where they pass, all others of the core
but the plans that are written down whole: a law should fail near its code, and without a record.
Prints each survivor, and the shares killed near and by all.

bin/bench mutants [HOW MANY [MODULE]]: fewer, or only those of modules whose path holds MODULE.
bin/bench mutants --near HOW MANY [MODULE]: only the tests of the own package, which is far quicker.
"""

import ast
import copy
import os
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
HOW_MANY = 300
SEED = 12
WORKERS = 2
FIELD_LIMITS = ("Field", "StringConstraints")
MOST_SECONDS = 400
# What stands in a record kills a mutant anywhere; a law should.
RECORDS = ("test_plans.py",)
# The tests of each package: a law fails near its code.
NEAR: dict[str, tuple[str, ...]] = {
    "access": ("test_access", "test_planner"),
    "base": ("test_quantity", "test_units", "test_typed", "test_language", "test_days"),
    "capture": ("capture",),
    "engine": ("test_sheet", "test_shape_engines", "test_shapes", "test_variants", "test_joints",
               "test_targets"),
    "faults": ("test_faults", "test_following"),
    "figures": ("test_figures", "test_torque", "test_slips", "test_limits"),
    "interval": ("test_interval", "test_foreseen", "test_week"),
    "leads": ("test_leads",),
    "lessons": ("lessons",),
    "order": ("test_order", "test_blocks", "test_joint"),
    "procedure": (
        "test_procedure", "test_matrices", "test_setup_changes", "test_companions", "test_pieces",
        "test_edits", "test_acts", "test_fold", "test_moved", "test_merge", "test_difference",
        "test_checks", "test_whole_job", "test_format_1",
    ),
    "reading": ("test_reading",),
    "rules": ("test_rules",),
    "run": ("test_run", "test_report", "test_history", "test_waiting", "test_curve"),
    "sums": ("test_sums",),
    "tools": ("test_tools",),
    "words": ("test_catalogs", "test_words", "test_german", "test_language"),
}  # fmt: skip
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
    """The nodes in the bodies of a module's functions, without annotations."""
    left_out: set[int] = set()
    bodies = {
        id(inner)
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef)
        for statement in node.body
        for inner in ast.walk(statement)
    }
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
    return [node for node in ast.walk(tree) if id(node) in bodies - left_out]


def mutants(only: str = "") -> list[Mutant]:
    """Every fault that can be put into the rules."""
    found = []
    for package in NEAR:
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


@dataclass(frozen=True)
class Outcome:
    """Whether the tests of the own package killed a mutant, and whether any test did."""

    mutant: Mutant
    near: bool
    killed: bool


def outcome(mutant: Mutant, copy_of_source: Path, *, only_near: bool) -> Outcome:
    """Run the tests against a copy of the source with this fault in it."""
    path = copy_of_source / mutant.module
    sound = path.read_text()
    tree = ast.parse(sound)
    node = _inside(tree)[mutant.place]
    path.write_text(ast.unparse(ast.fix_missing_locations(
        _Put(node, apply(node, mutant.what)).visit(tree))))  # fmt: skip
    near, others = _tests_of(mutant.module.split("/")[2])
    try:
        if not _tests_pass(copy_of_source, near):
            return Outcome(mutant, near=True, killed=True)
        killed = not only_near and not _tests_pass(copy_of_source, others)
        return Outcome(mutant, near=False, killed=killed)
    finally:
        path.write_text(sound)


def _tests_of(package: str) -> tuple[list[str], list[str]]:
    """The test files of a package, and all others of the core that hold no record."""
    every = sorted((ROOT / "tests/core").rglob("test_*.py"))
    near = [path for path in every if path.stem in NEAR[package] or path.parent.name == package]
    others = [path for path in every if path not in near and path.name not in RECORDS]
    return [str(p.relative_to(ROOT)) for p in near], [str(p.relative_to(ROOT)) for p in others]


def _tests_pass(source: Path, files: list[str]) -> bool:
    # Every case of every sweep would take hours: the sample is the one of all runs of this draw.
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", *files]
    environment = {**os.environ, "PYTHONPATH": f"{source}:{ROOT}"}
    environment |= {"PYTHONDONTWRITEBYTECODE": "1", "ELDRIM_SWEEP": str(SEED)}
    try:
        done = subprocess.run(
            command, cwd=ROOT, env=environment, capture_output=True, timeout=MOST_SECONDS
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def main() -> int:
    """Put each fault in, run the tests, and tell what survived."""
    asked = sys.argv[1:]
    only_near = asked[:1] == ["--near"]
    asked = asked[1:] if only_near else asked
    how_many = int(asked[0]) if asked else HOW_MANY
    chosen = drawn(how_many, asked[1] if len(asked) > 1 else "")
    with tempfile.TemporaryDirectory() as home:
        free: Queue[Path] = Queue()
        for number in range(WORKERS):
            shutil.copytree(ROOT / "src", Path(home) / str(number))
            free.put(Path(home) / str(number))

        # Where tests fail without a fault, they tell nothing of one.
        packages = sorted({mutant.module.split("/")[2] for mutant in chosen})
        failing = [p for p in packages if not _tests_pass(Path(home) / "0", _tests_of(p)[0])]
        if failing:
            print(f"The tests of these fail as they are: {', '.join(failing)}")
            return 1

        def tried(mutant: Mutant) -> Outcome:
            source = free.get()
            try:
                found = outcome(mutant, source, only_near=only_near)
            finally:
                free.put(source)
            word = "near" if found.near else "far" if found.killed else "SURVIVED"
            print(f"{word:9}{mutant}", flush=True)
            return found

        with ThreadPoolExecutor(WORKERS) as pool:
            outcomes = list(pool.map(tried, chosen))
    _tell(outcomes, only_near=only_near)
    return 0


def _tell(outcomes: list[Outcome], *, only_near: bool) -> None:
    count = max(len(outcomes), 1)
    near = sum(each.near for each in outcomes)
    print(
        f"\n{near} of {count} killed by the tests of their own package, {100 * near / count:.0f} %"
    )
    if not only_near:
        killed = sum(each.killed for each in outcomes)
        print(f"{killed} of {count} by any test of the core, {100 * killed / count:.0f} %")
    left = [str(each.mutant) for each in outcomes if not each.killed]
    print("Not killed:", *(left or ["none"]), sep="\n  ")


if __name__ == "__main__":
    sys.exit(main())
