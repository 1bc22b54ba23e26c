"""Plans of papers, always current: what is needed, what is shown for it, the workers that find it."""

from django.apps import AppConfig
from django.db.models.signals import post_migrate


class PlansConfig(AppConfig):
    """Follows the classes; counts classes that no version has counted yet."""

    name = "zester.plans"

    def ready(self) -> None:
        """Listen, and be asked."""
        from zester.classes import held
        from zester.classes.signals import class_counted
        from zester.plans import needs, queue, standing, work
        from zester.site import health, removed

        removed.register_need(standing.is_cut)
        held.register_done(standing.any_cut)
        class_counted.connect(needs.follow)
        queue.register(work.run)
        health.register("workers", standing.workers_now)
        post_migrate.connect(_count_the_uncounted, sender=self)


def _count_the_uncounted(**_) -> None:
    """After a migration from a version that stored no counts."""
    from zester.classes.services import recount, uncounted

    for key in uncounted():
        recount(key)
