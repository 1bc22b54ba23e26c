"""The fits: plans of papers, always current."""

from django.apps import AppConfig
from django.db.models.signals import post_migrate


class FitsConfig(AppConfig):
    """Follows the classes; says how the Fit station stands; counts classes that no version has counted yet."""

    name = "zester.fits"

    def ready(self) -> None:
        """Listen, and be asked."""
        from zester.classes.signals import class_counted
        from zester.fits import needs, promises, states
        from zester.shelf import uses as shelf_uses
        from zester.site import health, stations

        class_counted.connect(needs.follow)
        shelf_uses.register_promised(promises.promised_to)
        health.register("workers", states.workers_now)
        stations.register_strip("fits:strip")
        stations.register_tab("count", "papers", "Papers and bits", "fits:needs", 5)
        stations.register_tab("shelf", "buying", "Buying list", "fits:buying", 90)
        stations.register_tab("count", "seats", "Seats", "fits:seats", 90)
        stations.register("fit", "Fit", "fits:wall", states.fit_states)
        post_migrate.connect(_count_the_uncounted, sender=self)


def _count_the_uncounted(**_) -> None:
    """After a migration from a version that stored no counts."""
    from zester.classes.services import recount, uncounted

    for key in uncounted():
        recount(key)
