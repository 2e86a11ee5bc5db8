"""Stress-strain results of a coupon."""

from yoke_server.derive.kinds.tension.compute import TensionKind

RESULT = TensionKind()
