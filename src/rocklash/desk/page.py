"""The one round of a page: who asks, what was sent and what became of it, what is shown, with which status. A station only presents."""

from collections.abc import Callable, Mapping
from functools import wraps
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed
from django.shortcuts import render

from rocklash.commands.base import Command, Outcome, require_change
from rocklash.commands.figures import KeepFigure
from rocklash.commands.parts import ChoosePart
from rocklash.commands.undo import Undo
from rocklash.desk.access import in_shop
from rocklash.desk.bench import Bench
from rocklash.desk.frame import frame
from rocklash.records.models import Membership
from rocklash.records.selectors.builds import build_or_404, build_row_or_404

Commands = Mapping[str, type[Command]]
Present = Callable[..., dict[str, Any]]
Target = Callable[[Bench, str, dict[str, Any]], Any]
# What any page of a build takes: a figure of a field, a part of a slot, an undo.
_ANYWHERE: Commands = {"figure": KeepFigure, "part": ChoosePart, "undo": Undo}


_BY_FIELD = {"holder": "figure", "slot": "part", "fact": "fact"}


def act_of(request: HttpRequest, usual: str = "") -> str:
    """Which command was sent; a field of a figure and a slot of a part are known by their names, a form without a name is the `usual` one."""
    post = request.POST
    return post.get("act") or next((act for name, act in _BY_FIELD.items() if name in post), usual)


def run_sent(bench: Bench, command: type[Command] | None, target: Any = None) -> None:
    """Run the command that was sent; an unknown one is refused, with the page as it stands."""
    if command is None:
        bench.outcome = Outcome("refused", "There is nothing of that name to do here.")
        return
    request = bench.request
    bench.do(command(bench.member, bench.build, request.POST, target=target, files=request.FILES, query=request.GET))


def _standing(bench: Bench, takes: Commands, target: Target | None, place: dict[str, Any]) -> Callable[[str, dict[str, str]], str]:
    """For the forms of a page: a name for what stands of what their command writes over, empty where it writes over nothing."""

    def stands(act: str, sent: dict[str, str]) -> str:
        command = takes.get(act)
        if command is None or command.standing is Command.standing:
            return ""
        return command(
            bench.member, bench.build, sent, target=target(bench, act, place) if target else None, query=bench.request.GET
        ).stands()

    return stands


def build_page(
    station: str, template: str, commands: Commands | None = None, *, fold: bool = False, target: Target | None = None,
    after: Callable[[Bench], HttpResponse | None] | None = None, usual: str = "", reads: bool = False,
) -> Callable[[Present], Callable[..., HttpResponse]]:  # fmt: skip
    """Make a view of a function that presents a bench.

    `commands` by the `act` their forms send; `target` finds the row a command is about; `after` may answer in place of the page, such as with a
    redirection to what was made. `usual` is the command of a form that names none. `reads` pages take no command at all. The bench that is swapped in and the full page are one template.
    """

    def decorate(present: Present) -> Callable[..., HttpResponse]:
        takes = {} if reads else {**_ANYWHERE, **(commands or {})}

        @in_shop
        @wraps(present)
        def view(request: HttpRequest, member: Membership, number: int, **place: Any) -> HttpResponse:
            act = act_of(request, usual) if request.method == "POST" else ""
            command = takes.get(act)
            find = build_row_or_404 if command and command.light else build_or_404
            bench = Bench(request, member, find(member.workshop, number))
            if request.method == "POST":
                if reads:
                    return HttpResponseNotAllowed(["GET"])
                require_change(member)
                run_sent(bench, command, target(bench, act, place) if target else None)
                answer = after(bench) if after else None
                if answer:
                    return answer
            shown = present(bench, **place)
            sent: dict[str, Any] = {
                "refused": bench.refused,
                "typed": request.POST if bench.refused else {},
                "action": request.get_full_path(),
            }
            sent["stands"] = _standing(bench, takes, target, place)
            sent["opened"] = "all" if request.GET.get("figures") == "all" else request.headers.get("X-Opened", "").split()
            context = (
                frame(
                    bench,
                    station,
                    fold=fold,
                    reached=shown.pop("reached", None),
                    measured=shown.pop("measured", ()),
                    tried=shown.pop("tried_on_ladder", None),
                )
                | sent
                | shown
            )
            return render(request, template, context, status=bench.outcome.status if bench.outcome else 200)

        view.takes = takes  # type: ignore[attr-defined]  # for the door tests
        return view

    return decorate
