"""What one can buy: steels, bolts, nuts, washers, tubes, bars, sheets, bushes; and the user's own rack."""
