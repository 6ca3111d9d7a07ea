"""Bright Willow works out how to bend wood."""

__version__ = "0.2.0"
