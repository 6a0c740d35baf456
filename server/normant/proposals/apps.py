from django.apps import AppConfig


class ProposalsConfig(AppConfig):
    name = "normant.proposals"
    label = "proposals"
