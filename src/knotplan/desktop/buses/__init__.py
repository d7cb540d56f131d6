"""The Buses view: who answers where?"""
