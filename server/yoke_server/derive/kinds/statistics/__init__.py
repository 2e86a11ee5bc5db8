"""What a stretch of a channel comes to, with limits."""

from yoke_server.derive.kinds.statistics.compute import StatisticsKind

RESULT = StatisticsKind()
