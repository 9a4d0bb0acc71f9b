"""Formulas that a lab writes itself: a small language of arithmetic with units, checked before it is ever computed.

    strength = greatest_load / (mean(width) * thickness)
    energy   = mass * gravity * (from_height - to_height)
    rebound  = sqrt(to_height / from_height)

Grammar (blanks are of no account):

    formula  = sum
    sum      = product { ("+" | "-") product }
    product  = signed { ("*" | "·" | "×" | "/" | "÷") signed }
    signed   = ("+" | "-") signed | power
    power    = atom [ ("^" | "**") signed | "²" | "³" ]
    atom     = number [ unit ] | name | function "(" sum { ";" sum } ")" | "(" sum ")"

A number is written with a point or a comma, so arguments are parted by ";". A unit stands right behind its number
("5 mm"); a name alone is a reading, an earlier result or a constant. Nothing else is known: no text, no conditions, no
loops, no assignment, and nothing of Python.
"""
