"""Everything the application knows about the trade, without any interface.

Lengths are float64 millimetres, x to the right and y DOWN, with the origin at
the item's top-left corner. Angles are degrees, counter-clockwise as seen.
"""
