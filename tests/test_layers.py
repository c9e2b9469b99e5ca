"""Guard rails: the arrows between the layers, sizes, and words that stay out."""

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "brisk_larder"
MAY_IMPORT = {
    "core": {"core"},
    "reference": {"reference", "core"},
    "data": {"data", "core"},
    "formats": {"formats", "core"},
    "services": {"services", "core", "data", "formats", "reference"},
    "standins": {"standins", "core"},
    "demo": {"demo", "services", "standins", "data", "core", "clock"},
    "api": {"api", "services", "core", "data"},
}


def imports(path: Path) -> set[str]:
    """Layers of our own package that a module imports."""
    package = path.relative_to(SOURCE.parent).with_suffix("").parts
    out = set()
    for node in ast.walk(ast.parse(path.read_text())):
        names = []
        if isinstance(node, ast.Import):
            names = [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom):
            base = list(package[: len(package) - node.level]) if node.level else []
            stem = ".".join([*base, *filter(None, [node.module])])
            names = [stem, *(f"{stem}.{alias.name}" for alias in node.names)]
        for name in names:
            parts = name.split(".")
            if parts[0] == "brisk_larder" and len(parts) > 1 and (SOURCE / parts[1]).exists():
                out.add(parts[1])
    return out


@pytest.mark.parametrize("layer", sorted(MAY_IMPORT))
def test_arrows_point_one_way(layer):
    for path in (SOURCE / layer).rglob("*.py"):
        if "migrations" in path.parts:
            continue
        assert imports(path) <= MAY_IMPORT[layer], path


# rooms read what is below them and never each other, so that each can be opened alone; today is made
# of all of them
STOREYS = {"household": 0, "air": 1, "forecast": 2, "acts": 3, "today": 5}
ROOMS = {"stock", "storage", "trials", "needs", "growing", "saving", "papers"}


def room_arrows(folder: Path) -> set[tuple[str, str, str]]:
    """(module, its room, the room it imports) of all imports between rooms of the services."""
    out = set()
    for path in folder.rglob("*.py"):
        me = path.relative_to(folder).parts
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and 0 < node.level <= len(me):
                base = me[: len(me) - node.level]
                stem = [*base, *(node.module or "").split(".")]
                for other in [stem[0]] if stem[0] else [alias.name for alias in node.names]:
                    if len(base) < len(me) - 1 and (folder / other).is_dir():
                        out.add((str(path.relative_to(folder)), me[0], other))
    return out


def test_rooms_of_the_services_do_not_import_each_other():
    services = SOURCE / "services"
    assert {p.name for p in services.iterdir() if (p / "__init__.py").exists()} == {
        *STOREYS,
        *ROOMS,
    }
    arrows = room_arrows(services)
    assert len(arrows) > 100, "or nothing was looked at"
    up = {a for a in arrows if a[1] != a[2] and STOREYS.get(a[2], 4) >= STOREYS.get(a[1], 4)}
    assert up == set()


# core likewise: what all stands on, then four storeys, then rooms that do not know each other
CORE_STOREYS = {"base": 0, "storage": 1, "hand": 2, "seed": 3}
CORE_ROOMS = {"trials", "growing", "needs", "lines", "judging"}


def test_rooms_of_core_do_not_import_each_other():
    core = SOURCE / "core"
    assert {p.parent.name for p in core.rglob("*.py")} == {"core", *CORE_STOREYS, *CORE_ROOMS}
    assert {p.name for p in core.glob("*.py")} == {"__init__.py"}
    arrows = room_arrows(core)
    assert len(arrows) > 30, "or nothing was looked at"
    up = {
        a for a in arrows if a[1] != a[2] and CORE_STOREYS.get(a[2], 4) >= CORE_STOREYS.get(a[1], 4)
    }
    assert up == set()


def test_a_module_is_called_by_one_name():
    """A stranger who searches for a module finds one; routers carry the names of what they serve."""
    where: dict[str, list[Path]] = {}
    for path in SOURCE.rglob("*.py"):
        if not {"versions", "api"} & {*path.parts} and path.stem != "__init__":
            where.setdefault(path.stem, []).append(path)
    assert {name: found for name, found in where.items() if len(found) > 1} == {}


def test_the_same_rooms_are_found_everywhere():
    """Routers, tests and pages carry the names of the services' rooms; none is called after a shelf
    for odds and ends."""
    rooms = {*ROOMS, "today"}
    web = {p.name for p in (ROOT / "web" / "src" / "rooms").iterdir()}
    api = {p.stem for p in (SOURCE / "api").iterdir()}
    tests = {p.name for p in (ROOT / "tests" / "services").iterdir() if p.is_dir()} - {
        "__pycache__"
    }
    assert web == rooms
    assert rooms | {"household"} <= api
    assert tests <= rooms | set(STOREYS)
    vague = {"desk", "work", "advice", "checks", "data", "utils", "helpers", "common", "misc"}
    assert not {p.stem for p in (SOURCE / "services").rglob("*.py")} & vague
    assert not api & vague


def test_core_knows_no_clock_no_files_no_web():
    for path in (SOURCE / "core").rglob("*.py"):
        text = path.read_text()
        found = re.search(
            r"\b(open\(|requests|fastapi|sqlmodel|sqlalchemy|time\.time|\.now\(|date\.today)", text
        )
        assert not found, (path, found)


def code_files():
    for folder in (SOURCE, ROOT / "web" / "src", ROOT / "tests", ROOT / "benchmarks"):
        for path in folder.rglob("*"):
            generated = "versions" in path.parts or path.name == "schema.d.ts"
            if path.suffix in {".py", ".ts", ".vue", ".css"} and not generated:
                yield path


def test_modules_stay_readable():
    long = {p.name: n for p in code_files() if (n := len(p.read_text().splitlines())) > 460}
    assert long == {}, "split these"


def test_a_long_function_says_why():
    for path in SOURCE.rglob("*.py"):
        if "versions" in path.parts:
            continue
        text = path.read_text()
        lines = text.splitlines()
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.FunctionDef) and node.end_lineno - node.lineno >= 60:
                said = "\n".join(lines[node.lineno : node.end_lineno])
                assert "# long: " in said, f"{path.name}: {node.name}"


def test_no_address_of_any_registry_or_machine_is_committed():
    for name in ("requirements.lock", "pyproject.toml", "run", ".ci/run", "web/.npmrc"):
        assert not re.search(r"https?://(?!127\.0\.0\.1)", (ROOT / name).read_text()), name
    assert '"resolved"' not in (ROOT / "web" / "package-lock.json").read_text()


def test_links_in_the_papers_lead_somewhere_and_pictures_are_few():
    papers = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *(ROOT / "docs").rglob("*.md")]
    for paper in papers:
        for link in re.findall(r"\]\(([^)#]+)\)", paper.read_text()):
            assert "://" not in link, (paper.name, link)
            assert (paper.parent / link).exists(), (paper.name, link)
    pictures = list((ROOT / "docs" / "screenshots").iterdir())
    assert 0 < len(pictures) < 20
    assert {p.suffix for p in pictures} == {".png"}


def test_every_dependency_is_named_with_its_reason():
    named = (ROOT / "docs" / "dependencies.md").read_text()
    declared = re.findall(
        r'^    "([A-Za-z0-9-]+)', (ROOT / "pyproject.toml").read_text(), re.MULTILINE
    )
    assert len(declared) > 15
    for name in declared:
        assert name in named or name == "httpx2", name
