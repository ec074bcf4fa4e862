"""The definition as it is kept: parts, work centers and the library, sheets. One web of keys and one history, so one app."""

from .parts import Lot, LotMove, MakerNumber, OpenOrder, Part, PartClass, PartFile, StockMove, StockWorth, Tracing, Workspace
from .sheets import BuildSheet, Line, Operation, Option
from .work_centers import FinishedWork, StandardOperation, WorkCenter

__all__ = [
    "BuildSheet",
    "FinishedWork",
    "Line",
    "Lot",
    "LotMove",
    "MakerNumber",
    "OpenOrder",
    "Operation",
    "Option",
    "Part",
    "PartClass",
    "PartFile",
    "StandardOperation",
    "StockMove",
    "StockWorth",
    "Tracing",
    "WorkCenter",
    "Workspace",
]
