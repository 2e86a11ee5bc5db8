"""Electronic data sheets in the memory of a sensor's plug, after IEEE 1451.4.

`bits` packs fields, `templates` are tables of them, `sheet` reads and writes a memory.
"""
