from django.apps import AppConfig


class ProjectsConfig(AppConfig):
    name = "normant.projects"
    label = "projects"
