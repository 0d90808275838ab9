"""Machines without a customer: the grade, the most that may be put into one, and what each way leaves."""

from eager_ear.core.stock.grade import Graded, State, grade_of, mended
from eager_ear.core.stock.worth import Taken, make_stock_offer

__all__ = ["Graded", "State", "Taken", "grade_of", "make_stock_offer", "mended"]
