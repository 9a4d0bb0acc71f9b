"""Specimen shapes as bodies."""
