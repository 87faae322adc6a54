"""The computing core: every figure that Nomothet shows is defined here, as docs/method.md says.

Pure computation on arrays and plain values: nothing in it reads a clock, a file or a setting.
"""
