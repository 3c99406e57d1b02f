"""What the engine shall do, and the limits that follow."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rocklash.desk.access import on_build
from rocklash.desk.frame import keep_posted, surroundings
from rocklash.records.models import Build, Membership
from rocklash.records.selectors.builds import build_or_404
from rocklash.stations.goal import commands as services
from rocklash.stations.goal.pages.goal import goal_page
from rocklash.ui.choices import USES
from valvetrain.units import UnitSystem


@on_build
def goal(request: HttpRequest, member: Membership, build: Build) -> HttpResponse:
    """Show the station; a sent field or use is kept first."""
    trouble, status, refused = None, 200, ""
    if request.method == "POST":
        if "use" in request.POST:
            refused = services.set_use(member, build, request.POST["use"], request.POST.get("seen", ""))
            status = 409 if refused else 200
        else:
            trouble, status = keep_posted(request, member, build)
        build = build_or_404(member.workshop, build.pk)
    context = surroundings(member, build, "goal")
    context["action"] = request.path
    context |= {"page": goal_page(context["answer"], build, UnitSystem(member.user.unit_system), trouble), "uses": USES, "refused": refused}
    return render(request, "goal/goal.html", context, status=status)
