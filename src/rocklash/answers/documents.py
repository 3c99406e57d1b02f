"""Documents that take seconds to lay out: asked for by what stands in them."""

import time

from rocklash.answers import tasks
from rocklash.answers.store import content_key
from rocklash.ui.pdf import pdf_of

_KIND = "pdf"


@tasks.kind(_KIND)
def _work(page: str, go_on: tasks.GoOn) -> bytes:
    go_on(0.1)
    return pdf_of(page)


def ask_pdf(build: int, page: str) -> tuple[str, tasks.Asked]:
    """The PDF of a page of a build, and the key to ask for it again."""
    key = f"{build}-{content_key(page)}"
    return key, tasks.ask(_KIND, key, page)


def pdf_by_key(build: int, key: str) -> tasks.Asked | None:
    """A PDF that was asked for before; only of the same build."""
    return tasks.peek(_KIND, key) if key.startswith(f"{build}-") else None


def wait_for_pdf(build: int, key: str) -> tasks.Asked | None:
    """The same, waited for: where no worker runs, the reader waits as for any page."""
    for _ in range(600):
        asked = pdf_by_key(build, key)
        if not isinstance(asked, tasks.Running):
            return asked
        time.sleep(0.02)
    return pdf_by_key(build, key)
