from django.apps import AppConfig


class LedgerConfig(AppConfig):
    name = "normant.ledger"
    label = "ledger"
