"""Builds as other open descriptions of mechanisms, and back: URDF, SDFormat, MJCF."""
