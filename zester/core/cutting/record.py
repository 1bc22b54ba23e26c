"""Steps and tables as plain data, to be kept while somebody cuts: lengths as ticks."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

from zester.core.cutting.steps import Result, Step
from zester.core.cutting.table import Lying, Table
from zester.core.errors import ShapeError
from zester.core.fitting.jobs.job import Margins

_MEND = "Bring in a backup from before"


def steps_data(steps: Iterable[Step]) -> list[dict[str, Any]]:
    """Steps as plain data."""
    return [asdict(step) for step in steps]


def read_steps(data: list[dict[str, Any]]) -> tuple[Step, ...]:
    """Steps from plain data.

    Raises
    ------
    ShapeError
        If it is none, with the number of the step.
    """
    return tuple(_read_step(number, entry) for number, entry in enumerate(data, 1))


def _read_step(number: int, entry: dict[str, Any]) -> Step:
    try:
        results = tuple(Result(**_with_margins(result)) for result in entry["results"])
        return Step(**entry | {"stacks": tuple(entry["stacks"]), "results": results})
    except (LookupError, TypeError) as error:
        raise ShapeError(f"Step {number} of those that were kept cannot be read", mend=_MEND) from error


def table_data(table: Table) -> dict[str, Any]:
    """A table as plain data."""
    return asdict(table)


def read_table(data: dict[str, Any]) -> Table:
    """A table from plain data; an empty one from nothing.

    Raises
    ------
    ShapeError
        If it is none.
    """
    if not data:
        return Table()
    try:
        return Table(tuple(Lying(**_with_margins(each)) for each in data["lying"]), data["opened"], data["torn"])
    except (LookupError, TypeError) as error:
        raise ShapeError("What lay on the table when cutting was begun cannot be read", mend=_MEND) from error


def _with_margins(entry: dict[str, Any]) -> dict[str, Any]:
    return entry | {"unusable": Margins(**entry["unusable"])}
