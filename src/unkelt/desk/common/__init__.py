"""Parts that several views are made of: the look (`theme.py`), drawings (`drawing.py` alone knows both an outline and a
QPainterPath), small widgets, the options and evidence of a step, work in other threads (`worker.py`).
"""
