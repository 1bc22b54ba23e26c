"""The door to the background task library, as far as classes need it."""

from django_tasks import task

from zester.classes.services import count_awaited

QUEUE = "quick"


@task(queue_name=QUEUE, priority=60)
def recount_task(pk: int) -> None:
    """Count the class with this key anew, unless somebody who looked at it did."""
    count_awaited(pk)
