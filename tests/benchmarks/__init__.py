"""`./yoke benchmark`: what we promise on speed, as ratios to floors measured in the same run."""
