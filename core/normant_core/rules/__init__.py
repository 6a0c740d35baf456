"""The language of conditions and bounds: parsed once, checked once, compiled once."""
