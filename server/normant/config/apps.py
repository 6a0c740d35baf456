from django.apps import AppConfig


class ConfigConfig(AppConfig):
    name = "normant.config"
    label = "config"
