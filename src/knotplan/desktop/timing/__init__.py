"""The Timing view: what does each pin do, and when?"""
