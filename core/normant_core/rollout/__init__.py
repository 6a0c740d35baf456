"""A plan on its way: canaries, waves, booked rooms, the report, and how long a correction lasts."""
