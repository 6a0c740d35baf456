"""The rules and sums of Normant: no framework, no network, no clock, no randomness of its own."""
