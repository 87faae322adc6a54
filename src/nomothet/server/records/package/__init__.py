"""A record with its data as one file: a Data Package that anybody can read, and that can be checked."""

from nomothet.server.records.package.build import write_package

__all__ = ["write_package"]
