"""A made-up station: how many pieces there are."""
