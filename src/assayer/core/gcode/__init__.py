"""G-code: reading it as numbers, planning its time, measuring it by layers, stepping a setting through it."""
