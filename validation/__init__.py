"""The battery model held against physics-based models with published parameter sets: `./ember validate`."""
