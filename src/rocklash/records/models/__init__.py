"""Every model of the site, by topic."""

from rocklash.records.models.account import Invitation, Membership, Role, User, Workshop
from rocklash.records.models.build import Build, CamCandidate, CamTiming, Setup, SetupRole, SetupSide
from rocklash.records.models.clearance import ClearanceSession, Reading, ShimMove, ShimSource, ShimStock
from rocklash.records.models.engine import CamLog, Engine, Part, Position, WheelRun
from rocklash.records.models.journal import JournalEntry
from rocklash.records.models.room import GapReading, InspectionFinding, OverRevCase
from rocklash.records.models.springs import Observation, SpringLog, TesterRun, ValveFit, Weighing

__all__ = [
    "Build",
    "CamCandidate",
    "CamLog",
    "CamTiming",
    "ClearanceSession",
    "Engine",
    "GapReading",
    "InspectionFinding",
    "Invitation",
    "JournalEntry",
    "Membership",
    "Observation",
    "OverRevCase",
    "Part",
    "Position",
    "Reading",
    "Role",
    "Setup",
    "SetupRole",
    "SetupSide",
    "ShimMove",
    "ShimSource",
    "ShimStock",
    "SpringLog",
    "TesterRun",
    "User",
    "ValveFit",
    "Weighing",
    "WheelRun",
    "Workshop",
]  # fmt: skip
