"""Accounts: sign-in and who may do what."""

from django.apps import AppConfig
from django.contrib.auth.signals import user_logged_in, user_login_failed
from django.db.models.signals import post_migrate


class AccountsConfig(AppConfig):
    name = "accounts"

    def ready(self) -> None:
        from accounts.access import make_groups
        from accounts.lasting import begin
        from accounts.proving import note_wrong

        post_migrate.connect(make_groups, sender=self)
        user_logged_in.connect(begin)
        user_login_failed.connect(note_wrong)
