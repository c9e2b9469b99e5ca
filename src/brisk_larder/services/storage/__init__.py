"""Storage: places and containers, readings and loggers, and where seed would keep better."""
