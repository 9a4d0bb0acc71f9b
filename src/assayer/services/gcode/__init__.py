"""G-code files: inspected, held against a sheet, compared, stepped."""
