from django.apps import AppConfig


class DialectsConfig(AppConfig):
    name = "normant.dialects"
    label = "dialects"
