"""The doors of findings: by seat and setting, the grid of drift, editions and drafts, waivers."""
