from django.apps import AppConfig


class SeatsConfig(AppConfig):
    name = "normant.seats"
    label = "seats"
