"""Every model of the site, by topic."""

from rocklash.records.models.account import AccessKey, AccessKind, DoorTry, Invitation, Membership, Role, SignedIn, User, Workshop
from rocklash.records.models.build import Build, CamCandidate, CamTiming, Setup, SetupRole, SetupSide
from rocklash.records.models.clearance import (
    ClearanceSession,
    PinKind,
    Pins,
    PlannedShim,
    Reading,
    ShimMove,
    ShimPin,
    ShimSource,
    ShimStock,
)
from rocklash.records.models.engine import CamLog, Engine, Part, Position
from rocklash.records.models.instruments import InstrumentKind, InstrumentRun
from rocklash.records.models.job import Finding, FindingPicture, Job, JobDetour, JobOverride, JobTick, JobWait, PartPlace
from rocklash.records.models.journal import FigureChange, HolderKind, JournalEntry
from rocklash.records.models.logbook import CareEntry, DueRule, DueState, LogNote, LogPicture, PartStart, Reminder, RunEntry
from rocklash.records.models.photos import PartPhoto, Photo
from rocklash.records.models.proof import Forecast, Phase, ProofFile, ProofKind, ProofTest
from rocklash.records.models.results import Result, ResultState
from rocklash.records.models.room import GapReading, InspectionFinding, OverRevCase
from rocklash.records.models.shelf import Decision, FamilyNote, Individual, Search, SisterEngine, SisterPart
from rocklash.records.models.shop import ShopOrder, ShopReading
from rocklash.records.models.springs import Observation, SpringLog, ValveFit, Weighing

__all__ = [
    "AccessKey",
    "AccessKind",
    "Build",
    "CamCandidate",
    "CamLog",
    "CamTiming",
    "CareEntry",
    "ClearanceSession",
    "Decision",
    "DoorTry",
    "DueRule",
    "DueState",
    "Engine",
    "FamilyNote",
    "FigureChange",
    "Finding",
    "FindingPicture",
    "Forecast",
    "GapReading",
    "HolderKind",
    "Individual",
    "InspectionFinding",
    "InstrumentKind",
    "InstrumentRun",
    "Invitation",
    "Job",
    "JobDetour",
    "JobOverride",
    "JobTick",
    "JobWait",
    "JournalEntry",
    "LogNote",
    "LogPicture",
    "Membership",
    "Observation",
    "OverRevCase",
    "Part",
    "PartPhoto",
    "PartPlace",
    "PartStart",
    "Phase",
    "Photo",
    "PinKind",
    "Pins",
    "PlannedShim",
    "Position",
    "ProofFile",
    "ProofKind",
    "ProofTest",
    "Reading",
    "Reminder",
    "Result",
    "ResultState",
    "Role",
    "RunEntry",
    "Search",
    "Setup",
    "SetupRole",
    "SetupSide",
    "ShimMove",
    "ShimPin",
    "ShimSource",
    "ShimStock",
    "ShopOrder",
    "ShopReading",
    "SignedIn",
    "SisterEngine",
    "SisterPart",
    "SpringLog",
    "User",
    "ValveFit",
    "Weighing",
    "Workshop",
]
