"""Put back: offcuts go to their shelves."""
