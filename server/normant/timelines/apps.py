from django.apps import AppConfig


class TimelinesConfig(AppConfig):
    name = "normant.timelines"
    label = "timelines"
