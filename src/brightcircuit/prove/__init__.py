"""Prove: does it all work, wheel up and on the road?"""
