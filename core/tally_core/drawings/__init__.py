"""Drawings: where balloons stand around a view, and numbers by where things stand in it."""
