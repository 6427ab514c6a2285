"""Devices: what is linked, the stand-ins to play, and what tablets hear of them."""
