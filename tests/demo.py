"""The demo's data for tests in this process."""

from __future__ import annotations

from django.core import serializers
from django.core.management.color import no_style
from django.db import connection, transaction

from tests.prepared import prepared, things


@transaction.atomic
def load_demo() -> None:
    """The demo, as ``manage.py load_demo`` makes it, in place of all that is in the database."""
    # What the test has made already would have keys of the demo's rows.
    for model in reversed(things()):
        model._base_manager.all().delete()
    for row in serializers.deserialize("json", (prepared() / "demo.json").read_text()):
        row.save()
    # What is made from now on gets keys after those.
    reset = connection.ops.sequence_reset_sql(no_style(), things())
    with connection.cursor() as cursor:
        for sql in reset:
            cursor.execute(sql)
