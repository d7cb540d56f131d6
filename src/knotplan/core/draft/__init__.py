"""Boards and parts while they are being described."""
