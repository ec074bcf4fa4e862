"""Accounts: sign-in and who may do what."""

from django.apps import AppConfig
from django.db.models.signals import post_migrate


class AccountsConfig(AppConfig):
    name = "accounts"

    def ready(self) -> None:
        from accounts.access import make_groups

        post_migrate.connect(make_groups, sender=self)
