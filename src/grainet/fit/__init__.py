"""Where a part can lie on a piece: raster layers, fields, exact placement."""
