"""Rules that machines hold, each with its reason. import-linter and ruff hold the others (pyproject.toml)."""

import ast
import doctest
import functools
import importlib
import inspect
import pkgutil
import re
import tomllib
import typing
from collections.abc import Callable, Iterator
from pathlib import Path
from types import ModuleType

import pytest

import valvetrain
from valvetrain import formulas

ROOT = Path(__file__).resolve().parents[2]
SOURCE = ROOT / "src"
MODULES = sorted(path for path in SOURCE.rglob("*.py") if "migrations" not in path.parts)
TEMPLATES = sorted(SOURCE.rglob("templates/**/*.html"))
SOURCES = tomllib.loads((SOURCE / "valvetrain/sources.toml").read_text(encoding="utf-8"))


def _code_lines(path: Path) -> int:
    return sum(1 for line in path.read_text(encoding="utf-8").splitlines() if line.strip() and not line.strip().startswith("#"))


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_modules_stay_small(path: Path) -> None:
    """A newcomer reads one topic a file: 400 code lines at most."""
    assert _code_lines(path) <= 400


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda path: path.name)
def test_templates_stay_small_and_hold_no_style_or_script(path: Path) -> None:
    """120 lines of 160 columns at most; the content policy forbids inline style and script, so none may creep in."""
    text = path.read_text(encoding="utf-8")
    assert len(text.splitlines()) <= 120
    assert max(map(len, text.splitlines()), default=0) <= 160
    assert not re.search(r"\sstyle=|\son[a-z]+=|<style|<script(?![^>]*\bsrc=)", text)
    broken = [line for line in text.splitlines() if line.rfind("{%") > line.rfind("%}") or line.rfind("{{") > line.rfind("}}")]
    assert not broken  # a tag that runs over the end of its line is printed as it stands


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_no_import_inside_a_function(path: Path) -> None:
    """What a module needs stands at its top; the way out of a circle is another layer, not a late import."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    late = [
        inner.lineno
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
        for inner in ast.walk(node)
        if isinstance(inner, ast.Import | ast.ImportFrom)
    ]
    assert not late


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_every_public_name_says_what_it_is(path: Path) -> None:
    """Public modules, functions and classes carry a docstring; no note-to-self is left in the code."""
    text = path.read_text(encoding="utf-8")
    tree = ast.parse(text)
    if path.name == "__init__.py" and not text.strip():
        return
    silent = [] if ast.get_docstring(tree) else ["module"]
    for node in tree.body:
        if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_") and not ast.get_docstring(node):
            silent.append(node.name)  # noqa: PERF401
    assert not silent
    assert not re.search(r"\b(TODO|FIXME|XXX)\b", text)


@pytest.mark.parametrize("path", sorted(SOURCE.glob("rocklash/stations/*/views.py")), ids=lambda path: path.parent.name)
def test_views_parse_call_and_pick_a_template(path: Path) -> None:
    """A view that grows past 22 lines decides something that belongs into a command or a page."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    long = [node.name for node in ast.walk(tree) if isinstance(node, ast.FunctionDef) and node.end_lineno - node.lineno > 22]  # type: ignore[operator]
    assert not long


@pytest.mark.parametrize("path", sorted(SOURCE.glob("rocklash/stations/**/*.py")), ids=lambda path: str(path.relative_to(SOURCE)))
def test_stations_query_nothing_unscoped(path: Path) -> None:
    """Views and pages never reach for `.objects`: reads go through selectors that take the workshop, writes through commands.

    A page is pure: it imports no selector either, so that what it shows was fetched by the view.
    """
    text = path.read_text(encoding="utf-8")
    if path.name not in ("commands.py", "forms.py") and path.parent.name != "commands":
        assert ".objects" not in text
    if path.parent.name == "pages":
        assert "records.selectors" not in text


def _walk(package: ModuleType) -> Iterator[ModuleType]:
    for info in pkgutil.walk_packages(package.__path__, package.__name__ + "."):
        if not info.name.endswith("__main__"):
            yield importlib.import_module(info.name)


def _formulas() -> list[Callable[..., object]]:
    found = []
    for module in _walk(formulas):
        if module.__name__.endswith(".limits"):
            continue
        for name, function in inspect.getmembers(module, inspect.isfunction):
            if function.__module__ == module.__name__ and not name.startswith("_"):
                found.append(function)
    return found


FORMULAS = _formulas()


@pytest.mark.parametrize("function", FORMULAS, ids=lambda function: function.__name__)
def test_formula_contract(function: Callable[..., object]) -> None:
    """Every formula names its equation, range and source, carries an example that runs, and types every argument with a unit."""
    text = inspect.getdoc(function) or ""
    for heading in ("Equation:", "Range:", "Source:"):
        assert heading in text, heading
    keys = re.findall(r"Source: (\w+)", text)
    assert keys
    assert set(keys) <= SOURCES.keys()
    assert doctest.DocTestParser().get_examples(text)
    hints = typing.get_type_hints(function, include_extras=True)
    assert set(inspect.signature(function).parameters) | {"return"} == hints.keys()


def _without_imports(text: str) -> str:
    return re.sub(r"^from [\w.]+ import (\([^)]*\)|[^\n]+)$", "", text, flags=re.MULTILINE)


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_no_value_object_is_made_of_nine_nameless_arguments(path: Path) -> None:
    """Nine figures in a row are mistaken for one another: from the ninth on they are given by name. A table's own lines may stand in columns."""
    values = {name for name in _dataclasses() if name != "FigureKind"}
    tree = ast.parse(path.read_text(encoding="utf-8"))
    wide = [
        (node.lineno, node.func.id)
        for node in ast.walk(tree)
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in values and len(node.args) > 8
    ]
    assert not wide


@functools.cache
def _dataclasses() -> frozenset[str]:
    return frozenset(
        node.name
        for path in MODULES
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.ClassDef) and any("dataclass" in ast.unparse(each) for each in node.decorator_list)
    )


@pytest.mark.parametrize("function", FORMULAS, ids=lambda function: function.__name__)
def test_every_formula_is_tested_by_name(function: Callable[..., object]) -> None:
    """Beside its own example each formula stands in tests/valvetrain, where the origin of the expected number is told."""
    tests = "".join(path.read_text(encoding="utf-8") for path in (ROOT / "tests/valvetrain").glob("*.py"))
    assert re.search(rf"(?<![\w.])(?:\w+\.)?{function.__name__}\(|\b{function.__name__}\b(?=[,)\]])", _without_imports(tests))


def test_all_sources_resolve() -> None:
    """A key that is cited anywhere in the core is in the bibliography, and tells how its content got here."""
    cited = set()
    for module in _walk(valvetrain):
        text = Path(str(module.__file__)).read_text(encoding="utf-8")
        cited |= set(re.findall(r"[Ss]ource:? (\w+)", text)) & (SOURCES.keys() | {"methods"})
    assert cited <= SOURCES.keys()
    assert all({"title", "seen"} <= row.keys() for row in SOURCES.values())


def test_no_address_of_a_registry_or_of_this_machine() -> None:
    """Lock files and configuration name packages, never where they are fetched from."""
    for path in [*ROOT.glob("requirements/*"), ROOT / "package.json", ROOT / "pyproject.toml", ROOT / "Makefile", *ROOT.glob("tools/*.py")]:
        text = path.read_text(encoding="utf-8")
        assert not re.search(r"https?://(?!127\.0\.0\.1)", text), path.name
        assert str(ROOT) not in text
        assert not re.search(rf"(?<![\w.]){re.escape(str(Path.home()))}/", text)


def test_rows_are_locked_without_their_key() -> None:
    """A lock that includes the key stands against every foreign key that is just being written to the row: two such hands lock one another out."""
    site = Path(__file__).resolve().parents[2] / "src/rocklash"
    calls = [
        (path.name, call)
        for path in site.rglob("*.py")
        for call in re.findall(r"select_for_update\([^()]*(?:\([^()]*\))?[^()]*\)", path.read_text(encoding="utf-8"))
    ]
    assert len(calls) > 20
    assert [each for each in calls if "no_key=True" not in each[1]] == []
