"""Tests that a lab defines itself."""
