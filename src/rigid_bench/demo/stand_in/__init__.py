"""Small simulated servers of a made-up school: its identity provider and its course platform.

They stand in where a school has servers of its own: for the tests, and to be tried beside the sample school. Nothing
here is meant to guard anything: whoever opens a page chooses who to be.
"""
