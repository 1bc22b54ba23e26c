"""The bench: cutting what was fitted."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    """Says how the Cut station stands."""

    name = "zester.bench"

    def ready(self) -> None:
        """Be asked."""
        from zester.bench.station import cut_states
        from zester.site import stations

        stations.register("cut", "Cut", "bench:steps", cut_states)
