"""What effects, proxies and renders ahead cost now."""

from normant_core.measure.machine.house_costs import HouseCosts, read_house_costs

from .models import Costs


def current_costs() -> HouseCosts:
    """As somebody kept it last; the usual where nobody has."""
    text = Costs.objects.values_list("text", flat=True).first()
    return read_house_costs(text, "effects") if text else HouseCosts()
