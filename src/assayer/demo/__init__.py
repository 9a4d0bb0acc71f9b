"""The demo scenario, made by code from a seed through the same services that people use."""
