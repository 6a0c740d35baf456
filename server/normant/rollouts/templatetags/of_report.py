"""What the page of a report says in words."""

from django import template

from ..report_pages import errand_line, of_seat, read_back

register = template.Library()
register.filter("read_back", read_back)
register.filter("of_seat", of_seat)
register.filter("errand_line", errand_line)
