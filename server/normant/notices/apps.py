from django.apps import AppConfig


class NoticesConfig(AppConfig):
    name = "normant.notices"
    label = "notices"
