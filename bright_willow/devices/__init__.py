"""Probes: the message they send, and simulated ones that obey physics."""
