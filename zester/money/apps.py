"""What a class costs, brings and leaves."""

from django.apps import AppConfig


class MoneyConfig(AppConfig):
    """Stands among the pages of the count."""

    name = "zester.money"

    def ready(self) -> None:
        """Be asked."""
        from zester.site import stations

        stations.register_tab("count", "money", "Money", "money:sums", 95)
