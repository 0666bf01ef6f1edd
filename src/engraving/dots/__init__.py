"""Making dots: tone to burn / no burn, by one registry of methods."""

from engraving.dots.bits import BitGrid
from engraving.dots.registry import FAMILIES, METHODS, Method, make_dots, method_named

__all__ = ["FAMILIES", "METHODS", "BitGrid", "Method", "make_dots", "method_named"]
