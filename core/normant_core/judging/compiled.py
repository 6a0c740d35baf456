"""Rules as Python functions: made from the checked syntax, for judging many seats fast."""

from collections.abc import Callable
from typing import Any

from ..rules import syntax
from ..rules.emit import FAST_FAILURES, HELPERS, Emitter, Shared, Unread
from ..rules.evaluate import Missing, Scope, evaluate
from ..standard.rule import Rule

# What Python raises for a source with more brackets in one another than its own parser takes.
NOT_COMPILED = (SyntaxError, MemoryError, RecursionError)
Fast = Callable[[Scope, Any, tuple[Any, ...]], int | None]


def predicate(node: syntax.Node) -> Callable[[Scope], Any]:
    """A condition as a function; it gives Missing where something was not read."""
    try:
        emitter = Emitter()
        source = f"lambda s: {emitter.source(node)}"
        fast = eval(compile(source, "<condition>", "eval"), {**HELPERS, **emitter.constants})
    except NOT_COMPILED:
        return lambda scope: evaluate(node, scope)

    def judged(scope: Scope) -> Any:
        try:
            return fast(scope)
        except FAST_FAILURES:
            return evaluate(node, scope)

    return judged


def compiled(rules: list[Rule], shared: Shared, conditional: set[int]) -> Fast:
    """The rules of one setting as a function: n+1 where rule n is met, -n-1 where it is not, None where none speaks.

    Only `conditional` layers have to be asked whether they apply. It raises one of FAST_FAILURES where something
    that it needs is missing; what Python does not compile is left to `evaluate` as well.
    """
    try:
        return _compiled(rules, shared, conditional)
    except NOT_COMPILED:
        return _left_to_evaluate


def is_compiled(judge: Fast) -> bool:
    """Whether Python took the rules; where it did not, each is worked out step by step."""
    return judge is not _left_to_evaluate


def _left_to_evaluate(scope: Scope, reading: Any, layers: tuple[Any, ...]) -> int | None:
    raise Unread


def _compiled(rules: list[Rule], shared: Shared, conditional: set[int]) -> Fast:
    emitter = Emitter(shared)
    lines = ["def judge(s, r, layers):"]
    for rule in rules:
        number = rule.layer
        guards = [f"(layers[{number}] is True or layer(layers[{number}]))"] if number in conditional else []
        if rule.versions:
            guards.append(f"{emitter.constant(rule.versions)}.holds(s.app.version or miss())")
        if rule.when:
            guards.append(emitter.source(rule.when.node))
        number = rule.number + 1
        verdict = f"return {number} if {emitter.source(rule.test)} else -{number}"
        lines.append(f"    if {' and '.join(guards) or 'True'}: {verdict}")
    scope: dict[str, Any] = {**HELPERS, **emitter.constants, "layer": _layer}
    exec(compile("\n".join(lines), "<rules>", "exec"), scope)
    judge: Fast = scope["judge"]
    return judge


def _layer(applies: Any) -> bool:
    if isinstance(applies, Missing):
        raise TypeError(applies.what)
    return bool(applies)
