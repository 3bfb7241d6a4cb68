"""The demo world, all invented: Lantern Yard in Marrow Quay."""
