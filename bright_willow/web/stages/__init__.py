"""The pages of the stages, one for each row of the core's table of stages."""

from importlib import import_module

from ...core.common.stages import STAGES
from .base import StageContext, StagePage

PAGES: dict[str, StagePage] = {key: import_module(f".{key}", __name__).PAGE for key in STAGES}

__all__ = ["PAGES", "StageContext", "StagePage"]
