"""What all stages' sheets are built from: fields, tables, rooms, charts, tasks."""
