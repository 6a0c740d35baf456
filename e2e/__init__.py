"""Journeys through the real interface: headless Chromium against the demo's own processes."""
