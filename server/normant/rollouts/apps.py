from django.apps import AppConfig


class RolloutsConfig(AppConfig):
    name = "normant.rollouts"
    label = "rollouts"
