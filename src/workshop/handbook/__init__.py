"""The handbook: a short page for each station and each fold, and the words of the trade."""
