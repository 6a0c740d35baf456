from django.apps import AppConfig


class ClearingsConfig(AppConfig):
    name = "normant.clearings"
    label = "clearings"
