"""The invented village: its jobs, its repairs, its past."""
