"""The base of all tables."""

from datetime import datetime
from typing import Any

from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP
from sqlalchemy.orm import DeclarativeBase


class Base(DeclarativeBase):
    """Base of all tables."""

    type_annotation_map = {datetime: TIMESTAMP(timezone=True), dict[str, Any]: JSONB}
