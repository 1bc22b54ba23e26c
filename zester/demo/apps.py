"""The demo: data that show what Zester does, and one command that serves it."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    """Stands on everything."""

    name = "zester.demo"
