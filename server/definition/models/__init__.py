"""The definition as it is kept: parts, work centers and the library, sheets. One web of keys and one history, so one app."""

from .parts import MakerNumber, OpenOrder, Part, PartClass, PartFile, StockMove, StockWorth, Workspace
from .sheets import BuildSheet, Line, Operation, Option
from .work_centers import FinishedWork, StandardOperation, WorkCenter

__all__ = [
    "BuildSheet", "FinishedWork", "Line", "MakerNumber", "OpenOrder", "Operation", "Option", "Part", "PartClass", "PartFile",
    "StandardOperation", "StockMove", "StockWorth", "WorkCenter", "Workspace",
]  # fmt: skip
