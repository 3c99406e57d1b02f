"""make docs: docs/formulas.html, every formula of the core from its docstring, as one page that needs nothing else."""

import html
import importlib
import inspect
import pkgutil
import re
import sys
import tomllib
import typing
from pathlib import Path

from valvetrain import formulas

ROOT = Path(__file__).resolve().parent.parent
STYLE = "body{font:16px/1.5 sans-serif;max-width:52rem;margin:2rem auto;padding:0 1rem}pre{background:#f4f1ea;padding:.6rem;overflow-x:auto}h2{margin-top:2.5rem}dt{font-weight:600}.s{color:#555;font-size:.9rem}"


def _units(function: object) -> str:
    hints = typing.get_type_hints(function, include_extras=True)

    def unit(hint: object) -> str:
        if typing.get_origin(hint) is typing.Annotated:
            return str(typing.get_args(hint)[1]) or "1"
        return next((found for option in typing.get_args(hint) if (found := unit(option))), "")

    return (
        ", ".join(f"{name} [{unit(hint) or 'word'}]" for name, hint in hints.items() if name != "return")
        + f" → [{unit(hints['return']) or '-'}]"
    )


def page() -> str:
    """The whole reference."""
    sources = tomllib.loads((ROOT / "src/valvetrain/sources.toml").read_text(encoding="utf-8"))
    parts = [
        f"<!doctype html><html lang=en><meta charset=utf-8><title>Formulas of Rock Lash</title><style>{STYLE}</style><h1>Formulas of Rock Lash</h1>"
    ]
    parts.append(
        "<p>Every formula the bench computes with: its equation, where it holds, an example that is run as a test, and its source.</p>"
    )
    for info in pkgutil.iter_modules(formulas.__path__):
        module = importlib.import_module(f"{formulas.__name__}.{info.name}")
        own = [
            f
            for _, f in inspect.getmembers(module, inspect.isfunction)
            if f.__module__ == module.__name__ and not f.__name__.startswith("_")
        ]
        if not own or info.name == "limits":
            continue
        parts.append(f"<h2>{html.escape((inspect.getdoc(module) or info.name).splitlines()[0])}</h2>")
        for function in sorted(own, key=lambda each: each.__code__.co_firstlineno):
            text = inspect.getdoc(function) or ""
            keys = re.findall(r"Source: (\w+)", text)
            told = "; ".join(sources[key]["title"] for key in keys if key in sources)
            parts.append(
                f"<section class=formula><h3 id={function.__name__}>{function.__name__}</h3><p class=s>{html.escape(_units(function))}</p>"
            )
            parts.append(f"<pre>{html.escape(text)}</pre><p class=s>{html.escape(told)}</p></section>")
    return "\n".join(parts) + "\n"


if __name__ == "__main__":
    (ROOT / "docs/formulas.html").write_text(page(), encoding="utf-8")
    sys.exit(0)
