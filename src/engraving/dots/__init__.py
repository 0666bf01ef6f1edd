"""Making dots: tone to burn / no burn, by one registry of methods."""

from engraving.dots.bits import BitGrid
from engraving.dots.registry import METHODS, Method, make_dots, method_named

__all__ = ["METHODS", "BitGrid", "Method", "make_dots", "method_named"]
