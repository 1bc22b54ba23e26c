"""Accounts: who is signed in where, passwords, what the log says of it."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """Writes sign-ins and refusals to the log."""

    name = "zester.accounts"

    def ready(self) -> None:
        """Listen."""
        from zester.accounts import audit

        audit.listen()
