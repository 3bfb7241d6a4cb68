"""A name that a template prints and nobody gave prints nothing, silently: in tests it fails.

`{{ name|default:'' }}` says that nothing is meant to be printed then, and `{% if name %}` asks;
both are left alone. So is what is looked up in a mapping or in None: what somebody typed holds the
fields that were sent, and a contact may not be there.
"""

from collections.abc import Mapping
from typing import Any

from django.template.base import FilterExpression, Variable, VariableDoesNotExist
from django.template.context import BaseContext

ALLOWS_NOTHING = ("default", "default_if_none")
"""Filters that say what is printed where there is nothing."""

resolve = FilterExpression.resolve


class UndefinedNameError(AssertionError):
    """A template printed a name that nobody gave it."""


def strict(self: FilterExpression, context: BaseContext, ignore_failures: bool = False) -> Any:
    """Resolve as Django does, and fail where a printed name is not there."""
    asks = ignore_failures or any(func.__name__ in ALLOWS_NOTHING for func, _ in self.filters)
    if not asks and isinstance(self.var, Variable) and self.var.lookups:
        try:
            self.var.resolve(context)
        except VariableDoesNotExist:
            if is_missing(self.var, context):
                where = getattr(getattr(context, "template", None), "name", "a template")
                raise UndefinedNameError(f"{self.var.var} in {where}") from None
    return resolve(self, context, ignore_failures)


def is_missing(variable: Variable, context: BaseContext) -> bool:
    """Return whether a name is not in the context, or an attribute not on its object."""
    name, *rest = variable.lookups
    if name not in context:
        return True
    found = context[name]
    for step in rest:
        if found is None or isinstance(found, Mapping):
            return False
        try:
            found = Variable(f"x.{step}").resolve({"x": found})
        except VariableDoesNotExist:
            return True
    return False


def be_strict() -> None:
    """Let every template of this process fail by a name that is not there."""
    FilterExpression.resolve = strict  # type: ignore[method-assign]
