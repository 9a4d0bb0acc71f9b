"""Instruments, what they show, and how far they are right."""
