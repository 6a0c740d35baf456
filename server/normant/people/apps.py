from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "normant.people"
    label = "people"
