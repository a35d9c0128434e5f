"""The rulebook: machines, inspections, readings and grades as pure functions.

Standard library only. Nothing here reads a clock, a file, the network or a
random number; whatever it needs is handed in, so the same code gives the same
answer on a server and in a browser.
"""
