"""The rules and the computation: numpy, scipy and pydantic values only."""
