"""The one home of sRGB codes, linear light, lightness, and colours by name."""
