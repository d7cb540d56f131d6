"""Suggestions: which contact each lead is best tied to, all of them together
(0/1 programme over needs and offers)."""
