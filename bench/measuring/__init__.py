"""What measuring promises: how often trials err, and what timelines and exports cost."""
