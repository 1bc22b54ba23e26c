"""What is kept as JSON says what shape it has, so that a version knows whether it can read it."""

from __future__ import annotations

from typing import Any

from django.db import models

from zester.core.errors import ShapeError


class ShapeField(models.JSONField):
    """JSON whose shape has a name and a version, as ``bench-steps/1``, which are written beside it.

    What was kept before shapes had names is of their first version. What is empty says nothing of its shape, so that
    a query for what is empty stays one. A shape that changes gets the next number, and a migration that rewrites the
    rows: there is one reader, of one version.

    Raises
    ------
    ShapeError
        When a row is read whose shape has another name or version.
    """

    def __init__(self, *args, shape: str = "", **kwargs):
        super().__init__(*args, **kwargs)
        self.shape = shape

    def deconstruct(self) -> tuple:
        """As plain JSON: the tables are the same, and migrations see what is stored."""
        name, _, args, kwargs = super().deconstruct()
        return name, "django.db.models.JSONField", args, kwargs

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """What was kept, without its shape."""
        kept = super().from_db_value(value, expression, connection)
        if not isinstance(kept, dict) or kept.keys() != {"format", "kept"}:
            return kept
        if kept["format"] != self.shape:
            raise ShapeError(
                f"Something kept here is {kept['format']}, and this version reads {self.shape}",
                mend="Run the version of Zester that kept it, or bring in a backup from before",
            )
        return kept["kept"]

    def get_db_prep_save(self, value: Any, connection: Any) -> Any:
        """What is to be kept, with its shape."""
        if value and isinstance(value, (dict, list)):
            value = {"format": self.shape, "kept": value}
        return super().get_db_prep_save(value, connection)
