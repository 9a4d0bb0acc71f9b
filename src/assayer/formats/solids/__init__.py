"""Solid bodies as files: STL and 3MF."""
