"""What people and processes do with the product: each file one use, from the store through the core and back."""
