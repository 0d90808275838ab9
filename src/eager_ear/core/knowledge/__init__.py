"""What the shop knows, as data: each entry with its reason. Read through `machine/` and `diagnosis/knowledge.py`."""
