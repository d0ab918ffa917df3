"""One sheet for each stage: what the user sees and edits beside the bay."""
