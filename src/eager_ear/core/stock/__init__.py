"""Machines without a customer: the grade, the most that may be put into one, and what each way leaves."""

from eager_ear.core.stock.grade import Graded, State, grade_of, mended
from eager_ear.core.stock.hours import HoursRun, hours_run
from eager_ear.core.stock.worth import Taken, make_stock_offer

__all__ = ["Graded", "HoursRun", "State", "Taken", "grade_of", "hours_run", "make_stock_offer", "mended"]
