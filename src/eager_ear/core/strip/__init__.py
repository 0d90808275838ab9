"""Strip: what comes off in which order, how it goes back, and what is still open."""

from eager_ear.core.strip.closure import NoSuchWay
from eager_ear.core.strip.gates import Gate
from eager_ear.core.strip.plan import Plan, PlannedStep, find_paths, make_plan, plan_below_a_dryer, read_setting
from eager_ear.core.strip.stance import Way, told_setting, ways_to_stand
from eager_ear.core.strip.written import plan_dict, plan_text

__all__ = [
    "Gate",
    "NoSuchWay",
    "Plan",
    "PlannedStep",
    "Way",
    "find_paths",
    "make_plan",
    "plan_below_a_dryer",
    "plan_dict",
    "plan_text",
    "read_setting",
    "told_setting",
    "ways_to_stand",
]
