"""What has to be bought for how many, and by when it can be built."""

from .bill import BatchBill, BatchLine, InDrawer, PriceBreak, batch_bill, batch_table, order, read_breaks
from .calendar import plan_calendar
from .plan import BuildPlan, PlanState, PlanTask, build_plan
from .sheets import as_csv, as_ods, as_xlsx

__all__ = [
    "BatchBill",
    "BatchLine",
    "BuildPlan",
    "InDrawer",
    "PlanState",
    "PlanTask",
    "PriceBreak",
    "as_csv",
    "as_ods",
    "as_xlsx",
    "batch_bill",
    "batch_table",
    "build_plan",
    "order",
    "plan_calendar",
    "read_breaks",
]
