"""Which test files a change can reach: `bin/test --changed [REVISION]`.

A test is reached that imports a changed module, or one that imports it; that asks for a route of a
changed page or template; or that is changed itself. What is reached only through the application
as a whole, or over more steps, is left to the whole run, and counted aloud.
"""

import ast
import re
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE, TESTS = ROOT / "src", ROOT / "tests"
# All pages and all tests hang together by these, so they lead nowhere.
HUBS = {"eldrim.web.app", "tests.conftest", "eldrim.cli"}
NEAR_STEPS = 2
ROUTE = re.compile(r"@\w+\.(?:get|post|put|delete|patch)\(\s*f?\"(/[^\"{]*)")
Modules = dict[str, Path]


def changed_files(since: str) -> list[Path]:
    """What differs from a revision, with files git does not know yet."""
    asked = (["git", "diff", "--name-only", since], ["git", "ls-files", "-o", "--exclude-standard"])
    found = [
        subprocess.run(command, cwd=ROOT, check=True, capture_output=True, text=True).stdout
        for command in asked
    ]
    return sorted({ROOT / line for text in found for line in text.splitlines()})


def module_name(path: Path) -> str:
    """How a file is imported."""
    base = SOURCE if path.is_relative_to(SOURCE) else ROOT
    parts = path.relative_to(base).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def every_module() -> Modules:
    """The source and the tests."""
    files = [*SOURCE.rglob("*.py"), *TESTS.rglob("*.py")]
    return {module_name(path): path for path in files}


def importers(modules: Modules) -> dict[str, set[str]]:
    """Who imports each module, directly."""
    found: dict[str, set[str]] = {name: set() for name in modules}
    for name, path in modules.items():
        for node in ast.walk(ast.parse(path.read_text())):
            named: list[str] = []
            if isinstance(node, ast.Import):
                named = [alias.name for alias in node.names]
            elif isinstance(node, ast.ImportFrom) and node.module and not node.level:
                named = [node.module, *(f"{node.module}.{alias.name}" for alias in node.names)]
            for target in named:
                if target in found:
                    found[target].add(name)
    return found


def templates_lead_to(path: Path, modules: Modules) -> set[str]:
    """The modules that render a template, also through one that includes it."""
    folder = SOURCE / "eldrim"
    every = {t: t.read_text() for t in folder.rglob("*.jinja")}
    reached, waiting = {path}, [path]
    while waiting:
        name = waiting.pop().name
        for other, text in every.items():
            if other not in reached and name in text:
                reached.add(other)
                waiting.append(other)
    names = {template.name for template in reached}
    return {
        module
        for module, file in modules.items()
        if module.startswith("eldrim.") and any(name in file.read_text() for name in names)
    }


def begin_at(paths: Iterable[Path], modules: Modules) -> set[str]:
    """The modules that a change is in, or that read the file it is in."""
    by_path = {path: name for name, path in modules.items()}
    found: set[str] = set()
    for path in paths:
        if path in by_path:
            found.add(by_path[path])
        elif path.suffix == ".jinja":
            found |= templates_lead_to(path, modules)
        elif path.is_relative_to(SOURCE) or path.is_relative_to(TESTS):
            # Data: whoever names the file, or its folder's modules.
            found |= {m for m, f in modules.items() if path.name in f.read_text()}
            found |= {m for m, f in modules.items() if f.parent == path.parent}
    return found


def reached(begin: set[str], modules: Modules) -> dict[str, int]:
    """Every module a change can reach, with the steps it takes."""
    who = importers(modules)
    steps = dict.fromkeys(begin, 0)
    waiting = list(begin)
    for name in waiting:
        for other in who[name] - HUBS:
            if other not in steps:
                steps[other] = steps[name] + 1
                waiting.append(other)
    return steps


def by_route(steps: dict[str, int], modules: Modules) -> set[str]:
    """The tests that ask for a route of a page that is near."""
    near = [m for m, n in steps.items() if m.startswith("eldrim.web.") and n < NEAR_STEPS]
    routes = {route for m in near for route in ROUTE.findall(modules[m].read_text())} - {"/"}
    return {
        name
        for name, path in modules.items()
        if name.startswith("tests.web.") and any(f'"{r}' in path.read_text() for r in routes)
    }


def main() -> None:
    """Print the files near a change; tell how many others it can reach."""
    modules = every_module()
    steps = reached(begin_at(changed_files(sys.argv[1]), modules), modules)
    near = {m for m, n in steps.items() if n <= NEAR_STEPS} | by_route(steps, modules)
    far = set(steps) - near

    def tests(names: set[str]) -> list[Path]:
        files = sorted(modules[name] for name in names)
        return [f for f in files if f.name.startswith("test_") and f.parent.name != "browser"]

    chosen, left = tests(near), tests(far)
    for path in chosen:
        print(path.relative_to(ROOT))
    told = f"{len(chosen)} test files are near; {len(left)} more, and the browser's, are left"
    print(f"{told} to the whole run", file=sys.stderr)


if __name__ == "__main__":
    main()
