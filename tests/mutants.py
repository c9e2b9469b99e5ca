"""Breaks rules on purpose, one at a time, and asks whether a test notices.

    python -m tests.mutants --most 300 --seed 1 core/needs/seed_needed.py core/trials/when_to_test.py
    python -m tests.mutants --rules            (the rooms of core where rules stand)
    python -m tests.mutants --drawn 60 --seed 1   (so many of all services, drawn by lot)

Each mutant is one changed operator, number, truth value or branch of one module, tried in a process of
its own against the tests that mirror that module (of a service: those of its room, and of the rules of
rooms). Not part of the tests: it takes minutes.
"""

import argparse
import ast
import contextlib
import copy
import io
import json
import os
import random
import signal
import sys
import time
from collections.abc import Iterator
from importlib.abc import Loader, MetaPathFinder
from importlib.machinery import ModuleSpec
from importlib.util import spec_from_loader
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "brisk_larder"
SWAPS = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Add: ast.Sub,
    ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
CALLS = {
    "min": "max",
    "max": "min",
    "any": "all",
    "all": "any",
    "minimum": "maximum",
    "maximum": "minimum",
}
RULES = ("hand", "growing", "needs", "trials", "lines", "judging")  # rooms of core
PATIENCE_S = 60
PATIENCE_ROOM_S = 400  # of the tests of a room
CORE_ONLY = True  # tests of core need nothing of the conftest, which loads the whole house


def places(tree: ast.Module) -> Iterator[tuple[str, ast.AST, int]]:
    """(kind, node, which) of all that may be broken: not annotations, defaults of types, or words."""
    quiet = set()
    for node in ast.walk(tree):
        for hint in (getattr(node, "annotation", None), getattr(node, "returns", None)):
            quiet.update(ast.walk(hint) if hint else ())
        if isinstance(node, ast.Raise | ast.Assert | ast.JoinedStr):
            quiet.update(ast.walk(node))
        for decorator in getattr(node, "decorator_list", ()):
            quiet.update(ast.walk(decorator))
    for node in ast.walk(tree):
        if node in quiet:
            continue
        if isinstance(node, ast.Compare):
            yield from (("swap", node, i) for i, op in enumerate(node.ops) if type(op) in SWAPS)
        elif isinstance(node, ast.BinOp | ast.BoolOp) and type(node.op) in SWAPS:
            yield "swap", node, -1
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float, bool):
            yield "number", node, 0
        elif isinstance(node, ast.IfExp):
            yield "branch", node, 0
        elif isinstance(node, ast.Call):
            name = getattr(node.func, "id", getattr(node.func, "attr", ""))
            if name in CALLS:
                yield "call", node, 0


def broken(source: str, index: int) -> tuple[str, str]:
    """The module with its ``index``-th place broken, and what was done in words."""
    tree = ast.parse(source)
    kind, node, which = list(places(tree))[index]
    before = ast.unparse(node)
    if kind == "swap" and isinstance(node, ast.Compare):
        node.ops[which] = SWAPS[type(node.ops[which])]()
    elif kind == "swap":
        node.op = SWAPS[type(node.op)]()
    elif kind == "number":
        node.value = (not node.value) if isinstance(node.value, bool) else node.value + 1
    elif kind == "branch":
        node.body, node.orelse = node.orelse, node.body
    else:
        func = copy.copy(node.func)
        name = "id" if isinstance(func, ast.Name) else "attr"
        setattr(func, name, CALLS[getattr(func, name)])
        node.func = func
    return ast.unparse(tree), f"line {node.lineno}: {before} -> {ast.unparse(node)}"


class Instead(MetaPathFinder, Loader):
    """Gives a broken source for one module."""

    def __init__(self, name: str, source: str) -> None:
        self.name, self.source = name, source

    def find_spec(self, name: str, path: object, target: object = None) -> ModuleSpec | None:
        return spec_from_loader(name, self) if name == self.name else None

    def exec_module(self, module: object) -> None:
        exec(compile(self.source, self.name, "exec"), vars(module))


def mirrors(module: str, among: list[Path]) -> list[str]:
    """The tests that import a module, those named after it first."""
    stem = module.rsplit(".", 1)[-1]
    word = module.removeprefix("brisk_larder.").replace(".", r".")
    found = []
    for path in among:
        text = path.read_text()
        package, _, name = word.rpartition(".")
        if word in text or any(
            f"{package} import" in line and name in line.replace(",", " ").split()
            for line in text.splitlines()
        ):
            found.append(path)
    return [str(p) for p in sorted(found, key=lambda p: (stem not in p.stem, p.stat().st_size))]


def drawn(count: int, seed: int) -> list[tuple[str, int]]:
    """So many places of all services, drawn by lot: module and place."""
    modules = sorted((SOURCE / "services").rglob("[a-z]*.py"))
    every = [
        (str(path.relative_to(SOURCE)), i)
        for path in modules
        for i in range(len(list(places(ast.parse(path.read_text())))))
    ]
    return random.Random(seed).sample(every, count)


def of_room(name: str) -> list[str]:
    """The tests that a service's rule is to be noticed by."""
    room = ROOT / "tests" / Path(name).parent
    mine = sorted(room.glob("test_*.py"), key=lambda p: p.stat().st_size)
    whole = ROOT / "tests" / "services"
    return [str(p) for p in (whole / "test_rules_of_rooms.py", *mine, whole / "test_agreement.py")]


def noticed(module: str, source: str, tests: list[str]) -> bool:
    """Whether a test fails on a broken module; run in a child, so that nothing of it stays."""
    child = os.fork()
    if child == 0:
        signal.alarm(PATIENCE_S if CORE_ONLY else PATIENCE_ROOM_S)
        sys.meta_path.insert(0, Instead(module, source))
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
            import pytest

            plain = ["-x", "-q", "-p", "no:cacheprovider", "-o", "filterwarnings=ignore"]
            code = pytest.main([*plain, *(["--noconftest"] if CORE_ONLY else []), *tests])
        os._exit(0 if code == 0 else 1)
    _, status = os.waitpid(child, 0)
    return status != 0


def main() -> None:
    """Try mutants and say which survived."""
    ask = argparse.ArgumentParser(description=__doc__)
    ask.add_argument("modules", nargs="*", help="such as core/needs/seed_needed.py")
    ask.add_argument("--rules", action="store_true")
    ask.add_argument("--drawn", type=int, default=0, help="of all services, by lot")
    ask.add_argument("--most", type=int, default=40, help="of one module")
    ask.add_argument("--seed", type=int, default=1)
    ask.add_argument("--tests", default="tests/core", help="where to look for tests")
    asked = ask.parse_args()
    globals()["CORE_ONLY"] = asked.tests == "tests/core" and not asked.drawn
    rules = (p for room in RULES for p in sorted((SOURCE / "core" / room).glob("[a-z]*.py")))
    names = asked.modules or [str(p.relative_to(SOURCE)) for p in rules]
    os.environ["CI"] = "true"  # the same examples every time
    from hypothesis import settings  # what children share is loaded once

    settings.register_profile("house", deadline=None, derandomize=True, max_examples=40)
    settings.load_profile("house")
    import numba  # noqa: F401
    import scipy.interpolate
    import scipy.optimize
    import scipy.special  # noqa: F401
    import sqlmodel  # noqa: F401

    if asked.drawn:
        caught = 0
        for name, index in drawn(asked.drawn, asked.seed):
            text, words = broken((SOURCE / name).read_text(), index)
            module = "brisk_larder." + name.removesuffix(".py").replace("/", ".")
            found = noticed(module, text, of_room(name))
            caught += found
            print(f"  {'noticed' if found else 'survived'}: {name} {words}", flush=True)
        print(f"{caught} of {asked.drawn} noticed ({100 * caught / asked.drawn:.0f} %)")
        return
    among = [p for root in asked.tests.split(",") for p in (ROOT / root).rglob("test_*.py")]
    total = caught = 0
    for name in names:
        source = (SOURCE / name).read_text()
        module = "brisk_larder." + name.removesuffix(".py").replace("/", ".")
        tests = mirrors(module, among)
        if noticed(module, source, tests):
            raise SystemExit(f"{name}: its tests fail as it is")
        count = len(list(places(ast.parse(source))))
        chosen = sorted(random.Random(asked.seed).sample(range(count), min(asked.most, count)))
        begun, mine = time.time(), 0
        for index in chosen:
            text, words = broken(source, index)
            if noticed(module, text, tests):
                mine += 1
            else:
                print(f"  survived: {name} {words}", flush=True)
        total, caught = total + len(chosen), caught + mine
        print(json.dumps({"module": name, "tried": len(chosen), "of": count, "caught": mine,
                          "tests": len(tests), "seconds": round(time.time() - begun)}), flush=True)  # fmt: skip
    print(f"{caught} of {total} noticed ({100 * caught / max(total, 1):.0f} %)")


if __name__ == "__main__":
    main()
