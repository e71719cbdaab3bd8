"""The practice host: a stand-in hosting company on loopback, with real servers and made-up customers.

A composition root: it may name anything, nothing but `__main__` names it.
"""
