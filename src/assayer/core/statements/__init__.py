"""Sentences about results, read and held against what was measured (METHODS 15)."""
