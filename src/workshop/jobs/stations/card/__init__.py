"""The station that describes a swatch card."""
