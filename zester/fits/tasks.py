"""The door to the background task library."""

from django_tasks import task

from zester.fits.services import run_fit


@task()
def fit_task(pk: int) -> None:
    """Run the fit with this key."""
    run_fit(pk)
