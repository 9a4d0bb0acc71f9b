"""What was found in one test or in several: groups, differences, verdicts, and what is in doubt."""
