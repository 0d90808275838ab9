"""Machines without a customer."""
