from django.apps import AppConfig


class StandingCareConfig(AppConfig):
    name = "normant.standing_care"
    label = "standing_care"
