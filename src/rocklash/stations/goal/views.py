"""What the engine shall do, the limits that follow, and what it asks of fuel, ports and purse."""

from typing import Any

from rocklash.commands.facts import KeepWord
from rocklash.desk.bench import Bench
from rocklash.desk.page import build_page
from rocklash.stations.goal import commands
from rocklash.stations.goal.pages.breathing import breathing_page
from rocklash.stations.goal.pages.goal import goal_page
from rocklash.ui.choices import USES


@build_page("goal", "goal/goal.html", {"use": commands.SetUse, "fact": KeepWord}, usual="use")
def goal(bench: Bench) -> dict[str, Any]:
    """Goal, fuel, limits, and what they rest on."""
    return {"page": goal_page(bench.result, bench.build, bench.system, bench.field_error), "uses": USES}


@build_page("goal", "goal/breathing.html", {"fact": KeepWord, "flow": commands.AddFlow, "flow-gone": commands.DropFlow})
def breathing(bench: Bench) -> dict[str, Any]:
    """What the valves let pass, and how much work is enough for how much."""
    page = breathing_page(bench.result, bench.build, bench.system, bench.field_error)
    return {"page": page, "form": bench.form(commands.AddFlow)}
