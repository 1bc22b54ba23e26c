"""What a class costs, brings and leaves."""

from django.apps import AppConfig


class MoneyConfig(AppConfig):
    """Stands among the pages of the count."""

    name = "zester.money"

    def ready(self) -> None:
        """Be asked."""
        from zester.classes import closed, services
        from zester.money import closing, learnt
        from zester.site import stations

        closed.register_closed(closing.keep_record)
        services.register_copied(learnt.copy_learnt)
        stations.register_tab("pack", "closing", "Closing", "money:closing", 90)
        stations.register_tab("count", "money", "Money", "money:sums", 95)
