"""A refusal says in plain words which entry is wrong and why, not in those of a program."""

from datetime import datetime
from typing import Literal

import pytest
from pydantic import AwareDatetime, BaseModel, Field, ValidationError, field_validator

from assayer.api.refusal_words import field_words, reason


class Wall(BaseModel):
    across: float = Field(gt=0, le=20, allow_inf_nan=False)


class Sheet(BaseModel):
    name: str = Field("a", min_length=1, max_length=3)
    count: int = Field(1, ge=1, lt=9)
    walls: list[Wall] = Field(default_factory=list, max_length=2)
    kind: Literal["flat", "upright"] = "flat"
    at: AwareDatetime | None = None
    hardened: bool = True

    @field_validator("name")
    @classmethod
    def _plain(cls, name: str) -> str:
        if name == "no":
            raise ValueError("a name is not no")
        return name


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"name": "abcd"}, "name: more than 3 characters: shorten it"),
        ({"name": ""}, "name: empty"),
        ({"name": "no"}, "name: a name is not no"),
        ({"walls": [{"across": 1}, {"across": 0}]}, "walls, entry 2, across: must be above 0"),
        ({"walls": [{"across": 21}]}, "walls, entry 1, across: must be at most 20"),
        ({"walls": [{"across": float("inf")}]}, "walls, entry 1, across: not a finite number"),
        ({"walls": [{}]}, "walls, entry 1, across: missing"),
        ({"walls": [{"across": 1}] * 3}, "walls: more than 2 entries"),
        ({"count": 1.5}, "count: not a whole number"),
        ({"count": 0}, "count: must be at least 1"),
        ({"count": 9}, "count: must be below 9"),
        ({"kind": "askew"}, "kind: must be 'flat' or 'upright'"),
        ({"at": datetime(2026, 12, 1)}, "at: needs its time zone"),
        ({"at": "soon"}, "at: not a date and time"),
        ({"hardened": "perhaps"}, "hardened: neither yes nor no"),
    ],
)
def test_each_refusal_in_plain_words(given, said):
    with pytest.raises(ValidationError) as refused:
        Sheet.model_validate(given)
    error = refused.value.errors()[0]
    assert f"{field_words(('body', *error['loc']))}: {reason(error)}" == said


def test_no_refusal_of_a_request_speaks_of_strings_or_inputs(app):
    for body in (
        {"name": "x" * 81},
        {"name": ""},
        {"name": 3},
        {},
        {"name": "a", "nozzle": "wide"},
        {"name": "a", "build": [1]},
        {"name": "a", "keep_out": [[1, 2]]},
    ):
        answer = app.post("/api/printers", json=body).json()
        assert answer["detail"]
        assert not any(word in str(answer) for word in ("String", "Input", "should", "Field"))
