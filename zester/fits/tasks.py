"""The door to the background task library."""

from django_tasks import task

from zester.fits.advice import run_advice
from zester.fits.services import run_fit


@task()
def fit_task(pk: int) -> None:
    """Run the fit with this key."""
    run_fit(pk)


@task()
def advice_task(pk: int) -> None:
    """Work out the advice with this key."""
    run_advice(pk)
