"""What turns the drum: slip of the belt, what goes with the motor, squeal, hum, arrival at speed, current."""

from eager_ear.core.signals.drive.arrival import Arrival, measure_arrival
from eager_ear.core.signals.drive.belt_pluck import Pluck, pluck_pitch
from eager_ear.core.signals.drive.belt_slip import SlipMeasurement, measure_slip
from eager_ear.core.signals.drive.mains_hum import Hum, find_hum, room_hum_db
from eager_ear.core.signals.drive.motor_current import MotorCurrent, measure_current
from eager_ear.core.signals.drive.motor_off_level import Persistence, persistence
from eager_ear.core.signals.drive.squeal import Squeal, find_squeal

__all__ = [
    "Pluck",
    "pluck_pitch",
    "Arrival",
    "Hum",
    "MotorCurrent",
    "Persistence",
    "SlipMeasurement",
    "Squeal",
    "find_hum",
    "find_squeal",
    "measure_arrival",
    "measure_current",
    "measure_slip",
    "persistence",
    "room_hum_db",
]
