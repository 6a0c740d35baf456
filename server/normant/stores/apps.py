from django.apps import AppConfig


class StoresConfig(AppConfig):
    name = "normant.stores"
    label = "stores"
