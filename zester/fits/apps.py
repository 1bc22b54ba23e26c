"""The pages of the Fit station, and those of Count that need plans."""

from django.apps import AppConfig


class FitsConfig(AppConfig):
    """Says how the Fit station stands, and where its pages are."""

    name = "zester.fits"

    def ready(self) -> None:
        """Be asked."""
        from zester.fits import station
        from zester.site import stations
        from zester.site.today import register_needs, register_next

        stations.register_strip("fits:strip")
        stations.register_tab("count", "papers", "Papers and bits", "fits:needs", 5)
        stations.register_tab("shelf", "buying", "Buying list", "fits:buying", 90)
        stations.register_tab("count", "seats", "Seats", "fits:seats", 90)
        register_next("fit", station.next_to_fit)
        register_needs("fit", station.papers_short)
        stations.register("fit", "Fit", "fits:wall", station.fit_states)
