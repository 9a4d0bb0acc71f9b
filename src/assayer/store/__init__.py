"""The database: models, migrations, queries. SQLite in WAL mode, one file in the data folder."""
