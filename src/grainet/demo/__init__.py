"""The demo shop, an invented two-person workshop, made through the session like any user would."""
