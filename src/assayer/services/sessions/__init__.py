"""Devices that hold several members for a time."""
