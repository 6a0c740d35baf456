"""The rules and sums of Normant: no framework, no network, no clock, no randomness of its own."""

VERSION = "0.8.0"  # of the whole product: agent, server and command line tell it
