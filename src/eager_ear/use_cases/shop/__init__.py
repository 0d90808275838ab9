"""What the shop keeps beyond a visit: prices, people, machines, its record."""
