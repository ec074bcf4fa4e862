"""Simulated outside services that ship with the product: each a process of its own on loopback, with a page to make it misbehave.

They share no code and no table with the product; it speaks to them as it would to the real ones.
"""
