"""Job to findings, a module a stage; the verdict is their sum."""
