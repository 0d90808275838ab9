"""Routes of the shop: prices, people, machines, its record."""
