"""The ways of marking, a module each: what it computes, its moves, its likeness.

`registry` knows them all; the tool path and the proof ask it.
"""
