"""Backups and the check of what is kept."""
