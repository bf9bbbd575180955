"""Wood as it is measured: units, species, pieces, defects, thickness, moisture, density, rings. Plain values and arithmetic."""
