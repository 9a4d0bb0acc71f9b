"""Counting what a condition holds for."""

from __future__ import annotations

from sqlalchemy import ColumnElement, case, func


def count_if(condition: ColumnElement[bool]) -> ColumnElement[int]:
    """How many rows of a group satisfy a condition; a plain sum of a condition would come back as a truth value."""
    return func.coalesce(func.sum(case((condition, 1), else_=0)), 0)
