"""The shop on disk: SQLite, journal, migrations, backups. Values in, values out; it judges nothing."""
