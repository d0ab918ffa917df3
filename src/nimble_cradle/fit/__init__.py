"""Where the powertrain stands: position, gaps, driveline angles, axle balance."""
