"""What it costs to make again what was cleared: how much picture it holds, at the rates of the house."""

from .house_costs import HouseCosts

LEAST_HOURS = 120  # minutes from which hours are told


def picture_words(kind: str, size: int, costs: HouseCosts) -> str:
    """`31 h of picture` in so many bytes of proxies, or of what was rendered ahead; empty for what has no rate."""
    mbits = {"proxies": costs.proxy.mbits, "renders": costs.ahead.mbits}.get(kind)
    if mbits is None or size <= 0:
        return ""
    minutes = size * 8 / (mbits * 1e6) / 60
    return f"{minutes / 60:,.0f} h of picture" if minutes >= LEAST_HOURS else f"{max(1.0, minutes):.0f} min of picture"
