"""The best seat for the powertrain: what is wished, what stops it, what each cut buys. Over the verdict,
since the engine must clear everything while it runs on its mounts."""
