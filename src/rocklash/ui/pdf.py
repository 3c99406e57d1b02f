"""HTML to PDF with the site's own styles and fonts; nothing is fetched from anywhere."""

import base64
import re
from functools import cache
from pathlib import Path
from urllib.parse import unquote, urljoin, urlsplit

import weasyprint
from django.contrib.staticfiles import finders
from django.contrib.staticfiles.storage import staticfiles_storage
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse

_PICTURE = "data:image/jpeg;base64,"


class _StaticFiles(URLFetcher):  # type: ignore[misc]  # the package has no types
    """Serves `static:` addresses from the site's static files and refuses all others."""

    def fetch(self, url: str, headers: dict[str, str] | None = None) -> URLFetcherResponse:  # noqa: ARG002
        if url.startswith(_PICTURE):  # one of our own, made anew and handed over within the page
            return URLFetcherResponse(url, base64.b64decode(url.removeprefix(_PICTURE)), {"Content-Type": "image/jpeg"})
        parts = urlsplit(url)
        found = _shipped(unquote(parts.path).removeprefix("/static/")) if parts.netloc == "rocklash.invalid" else None
        if not found:
            raise ValueError(f"The sheet asks for {url}, which does not ship with it.")
        kinds = {".css": "text/css", ".woff2": "font/woff2", ".svg": "image/svg+xml"}
        return URLFetcherResponse(
            url, Path(found).read_bytes(), {"Content-Type": kinds.get(Path(found).suffix, "application/octet-stream")}
        )


def _shipped(name: str) -> str | None:
    """File of a static address; a server of one's own has collected them under names with a hash, which no source folder knows."""
    found = finders.find(name)
    if found or not staticfiles_storage.exists(name):
        return found if isinstance(found, str) else None
    return str(staticfiles_storage.path(name))


_LADDER_GROWN = 1.28  # as much as its labels are laid apart for; print.css says the same


@cache
def _drawing_rules(grown: float) -> tuple[tuple[frozenset[str], str], ...]:
    """The drawings' rules in plain light colours, words `grown` times their size, each with the classes it needs: the renderer reads only style that
    stands inside an SVG, without variables."""
    tokens = Path(str(finders.find("css/tokens.css"))).read_text(encoding="utf-8")
    light = dict(re.findall(r"(--\w+): (#\w+);", tokens.split("[data-theme")[0]))
    css = Path(str(finders.find("css/drawings.css"))).read_text(encoding="utf-8")
    css = re.sub(r"/\*.*?\*/", "", css, flags=re.DOTALL)
    css = re.sub(r"@media[^{]*\{(?:[^{}]*\{[^{}]*\})*[^{}]*\}", "", css)  # screens
    css = re.sub(r"calc\(([\d.]+)px \* var\(--k, 1\)\)", lambda match: f"{grown * float(match.group(1)):.1f}px", css)
    css = re.sub(r"var\((--\w+)\)", lambda match: light[match.group(1)], css)
    css += "".join(
        f".v-{name} .m-cur {{ fill: {light['--' + name]}; }} .v-{name} .s-cur {{ fill: none; stroke: {light['--' + name]}; stroke-width: 1.6; }}"
        for name in ("holds", "slim", "short", "unproven")
    )
    css += f".sign * {{ fill: none; stroke: {light['--brasst']}; stroke-width: 1.5; }}"
    css += "svg .halo { stroke: none; }"  # the renderer paints a halo over its text
    rules = [(selector.strip(), body) for selectors, body in re.findall(r"([^{}]+)\{([^{}]*)\}", css) for selector in selectors.split(",")]
    return tuple((frozenset(re.findall(r"\.([\w-]+)", selector)), f"{selector} {{{body}}}") for selector, body in rules)


def _styled(drawing: re.Match[str]) -> str:
    """A drawing with the rules for the classes that stand in it; rules that look outside it are kept too."""
    classes = frozenset(" ".join(re.findall(r'class="([^"]*)"', drawing.group())).split())
    wide = re.search(r'viewBox="0 0 1\d{3}', drawing.group(1))  # the rev ladder: on paper it is about half as wide as drawn
    inside = "".join(rule for needs, rule in _drawing_rules(_LADDER_GROWN if wide else 1.0) if not needs or needs & classes)
    return drawing.group(1) + f"<style>{inside}</style>" + drawing.group(2)


@cache
def _sheets(names: tuple[str, ...]) -> tuple[list[weasyprint.CSS], FontConfiguration]:
    """The stylesheets of a page, read once in this process with their fonts."""
    fonts, fetcher = FontConfiguration(), _StaticFiles()
    base = "http://rocklash.invalid/"
    return [weasyprint.CSS(url=urljoin(base, name), font_config=fonts, url_fetcher=fetcher, media_type="print") for name in names], fonts


_LINK = re.compile(r'<link rel="stylesheet"\s+href="([^"]+)">')


def pdf_of(html: str) -> bytes:
    """PDF of a page whose links point into the site's static files, on the paper that the page names (A4 where it names none)."""
    told = re.search(r'data-paper="(A4|letter)"', html)
    paper = told.group(1) if told else "A4"
    sheets, fonts = _sheets(tuple(_LINK.findall(html)))
    size = weasyprint.CSS(string=f"@page {{ size: {paper}; }}", font_config=fonts)
    html = re.sub(r"(<svg[^>]*>)(.*?</svg>)", _styled, _LINK.sub("", html), flags=re.DOTALL)
    document = weasyprint.HTML(string=html, base_url="http://rocklash.invalid/", url_fetcher=_StaticFiles())
    return bytes(document.write_pdf(stylesheets=[*sheets, size], font_config=fonts))
