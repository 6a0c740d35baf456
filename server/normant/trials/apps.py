from django.apps import AppConfig


class TrialsConfig(AppConfig):
    name = "normant.trials"
    label = "trials"
