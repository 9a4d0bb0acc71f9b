"""Printers, and what is printed on them."""
