from django.apps import AppConfig


class StandingCareConfig(AppConfig):
    name = "normant.standing_care"
    label = "standing_care"

    def ready(self) -> None:
        """When a plan may run that no person has signed."""
        from normant.clearings.authority import register_agreement  # noqa: PLC0415 (models are loaded now)

        from .agreed import why_not_agreed  # noqa: PLC0415

        register_agreement(why_not_agreed)
