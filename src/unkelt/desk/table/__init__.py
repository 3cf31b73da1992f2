"""The light table: a sheet on rulers, with marks, handles and overlays. Begin with `table.py`."""
