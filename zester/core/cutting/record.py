"""Steps and tables as plain data, to be kept while somebody cuts: lengths as ticks."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

from zester.core.cutting.steps import Result, Step
from zester.core.cutting.table import Lying, Table
from zester.core.fitting.jobs.job import Margins


def steps_data(steps: Iterable[Step]) -> list[dict[str, Any]]:
    """Steps as plain data."""
    return [asdict(step) for step in steps]


def read_steps(data: list[dict[str, Any]]) -> tuple[Step, ...]:
    """Steps from plain data."""
    return tuple(
        Step(
            **entry
            | {
                "stacks": tuple(entry["stacks"]),
                "results": tuple(Result(**_with_margins(result)) for result in entry["results"]),
            }
        )
        for entry in data
    )


def table_data(table: Table) -> dict[str, Any]:
    """A table as plain data."""
    return asdict(table)


def read_table(data: dict[str, Any]) -> Table:
    """A table from plain data; an empty one from nothing."""
    if not data:
        return Table()
    return Table(tuple(Lying(**_with_margins(each)) for each in data["lying"]), data["opened"], data["torn"])


def _with_margins(entry: dict[str, Any]) -> dict[str, Any]:
    return entry | {"unusable": Margins(**entry["unusable"])}
