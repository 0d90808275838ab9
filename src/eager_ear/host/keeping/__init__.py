"""Copies that outlive the machine: backup, daily copies, seals, the folder."""
