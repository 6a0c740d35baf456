from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "normant.accounts"
    label = "accounts"
