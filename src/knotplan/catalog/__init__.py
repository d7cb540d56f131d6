"""Boards and parts, as files that people can read and write, and the models of those files."""
