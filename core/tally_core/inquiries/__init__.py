"""Inquiries: what a customer's lists say together, what is wrong with them, and what a later revision changes.

Nothing here knows where lists are kept or who decides; pairing itself stands in ``pairing``.
"""
