"""Union, difference and intersection, curves kept. Begin with `weld.py`: it asks the engine (`engine.py`) and judges;
`weld_many.py` does so for many clusters at once, `retrace.py` draws the second engine's answer.
"""
