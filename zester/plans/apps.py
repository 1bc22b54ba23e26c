"""Plans of papers, always current: what is needed, what is shown for it, the workers that find it."""

from typing import TextIO

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


def _count_the_uncounted(stdout: TextIO | None = None, **_) -> None:
    """After a migration from a version that stored no counts, or counted otherwise; what cannot be read now is told."""
    from zester.classes.models import CardClass
    from zester.classes.services import recount, uncounted
    from zester.site.stations import some

    for key in uncounted():
        before = CardClass.objects.get(pk=key).n_wrong
        counted = recount(key)
        if counted and counted.errors > before and stdout:
            more = some(counted.errors - before, "line")
            asked = ", ".join(f"{card.entry.letter} {card.entry.card.name}" for card in counted.cards if card.errors)
            stdout.write(
                f"{counted.card_class.title}: {more} of its lists cannot be counted any more without an answer. Open "
                f"{asked}.\n"
            )
