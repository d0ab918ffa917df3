"""The job: one frozen value, its file, its journal, and the named edits that lead from one job to the
next."""
