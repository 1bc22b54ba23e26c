"""The shelf: papers, what lies there of them, bits."""

from django.apps import AppConfig


class ShelfConfig(AppConfig):
    """Says which pages the shelf has."""

    name = "zester.shelf"

    def ready(self) -> None:
        """Name them."""
        from zester.shelf import finding
        from zester.site import find, stations

        find.register("Papers", finding.find_papers)
        find.register("Bits and pads", finding.find_bits)
        pages = (("shelf", "Papers"), ("offcuts", "Offcuts"), ("bits", "Bits and pads"))
        for order, (key, name) in enumerate((*pages, ("take_stock", "Stock-take"), ("ledger", "Ledger"))):
            stations.register_tab("shelf", key, name, f"shelf:{key}", 10 * order)
