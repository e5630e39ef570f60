"""Odd Lamp: plan, check and rehearse a light that obeys a phone, thumb to lamp."""

__version__ = "0.2.0"
