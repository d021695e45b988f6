"""The sample project: Brinehook, a made-up salvage-diving game, simulated. Knows no Qt."""
