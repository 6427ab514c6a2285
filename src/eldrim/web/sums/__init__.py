"""Quick sums: small arithmetic, one key away from anywhere."""
