"""The dial-in: settings sheets, trails of trials, towers, G-code, calibrations, and the hardware they are printed with."""
