"""What a card is: folds, layers, outlines, drawings, checks."""
