"""What the engine shall do, and the limits that follow."""

from typing import Any

from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.stations.goal.commands import SetUse
from rocklash.stations.goal.pages.goal import goal_page
from rocklash.ui.choices import USES


@build_page("goal", "goal/goal.html", {"use": SetUse}, usual="use")
def goal(bench: Bench) -> dict[str, Any]:
    """Goal, limits, and what they rest on."""
    return {"page": goal_page(bench.result, bench.build, bench.system, bench.field_error), "uses": USES}
