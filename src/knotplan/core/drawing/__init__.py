"""Pictures as plain shapes: the loom, charts, buses and waves."""
