"""HTML to PDF with the site's own styles and fonts; nothing is fetched from anywhere."""

import base64
import re
from functools import cache
from pathlib import Path
from urllib.parse import unquote, urlsplit

import weasyprint
from django.contrib.staticfiles import finders
from django.contrib.staticfiles.storage import staticfiles_storage
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


@cache
def _drawing_style() -> str:
    """The drawings' classes in plain light colours: the renderer reads only style that stands inside an SVG, without variables."""
    tokens = Path(str(finders.find("css/tokens.css"))).read_text(encoding="utf-8")
    light = dict(re.findall(r"(--\w+): (#\w+);", tokens.split("[data-theme")[0]))
    css = Path(str(finders.find("css/drawings.css"))).read_text(encoding="utf-8")
    css = re.sub(r"var\((--\w+)\)", lambda match: light[match.group(1)], css)
    verdicts = "".join(
        f".v-{name} .m-cur {{ fill: {light['--' + name]}; }} .v-{name} .s-cur {{ fill: none; stroke: {light['--' + name]}; stroke-width: 1.6; }}"
        for name in ("holds", "slim", "short", "unproven")
    )
    # the renderer paints a halo over its text
    return f"<style>{css}{verdicts} svg .halo {{ stroke: none; }}</style>"


def pdf_of(html: str) -> bytes:
    """PDF of a page whose links point into the site's static files."""
    html = re.sub(r"<svg[^>]*>", lambda match: match.group() + _drawing_style(), html)
    document = weasyprint.HTML(string=html, base_url="http://rocklash.invalid/", url_fetcher=_StaticFiles())
    return bytes(document.write_pdf())
