"""Recorded curves."""
