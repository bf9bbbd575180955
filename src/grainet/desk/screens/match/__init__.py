"""Match: how a pair of leaves is opened, and which boards go together that are no mates."""
