"""A starter shelf: usual sheets, colours and patterns under invented names, as lines to be changed and taken."""

IN_INCHES = """\
White, letter, card
Cream, letter, card
Sand, letter, card
Slate, letter, card
Ink, letter, card
Harbour Blue, letter, card
Moss Green, letter, card
Ember Red, letter, card
Honey, letter, card
Plum, letter, card
Sky Dots, 12 x 12, patterned
Rose Stripes, 12 x 12, patterned
Mint Waves, 12 x 12, patterned
Clear sheet, letter, clear
"""

IN_MILLIMETRES = IN_INCHES.replace("letter", "A4").replace("12 x 12", "A4")

STARTERS = {"in": IN_INCHES, "mm": IN_MILLIMETRES}
