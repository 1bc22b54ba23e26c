"""What plans take of the shelf: promised, booked, bought; what more people would take."""

from django.apps import AppConfig


class SupplyConfig(AppConfig):
    """Says what is promised."""

    name = "zester.supply"

    def ready(self) -> None:
        """Be asked."""
        from zester.shelf import uses
        from zester.supply import promises

        uses.register_promised(promises.promised_to)
