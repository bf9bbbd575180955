"""Measuring instruments behind one small interface; stand-ins for meter, scale, callipers, tap microphone, climate, camera."""
