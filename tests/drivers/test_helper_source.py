"""The helper's source by a real grammar: nothing newer than PHP 7.2, nothing that runs what it is given, plain to read."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
import tree_sitter_php
from tree_sitter import Language, Node, Parser

from highshelf.drivers.helper.client import PARTS, source_of

PARSER = Parser(Language(tree_sitter_php.language_php()))
# By construction: what may stand in the helper. Every kind of node here is PHP 7.1 or older.
NODES = {
    "argument", "arguments", "array_creation_expression", "array_element_initializer", "assignment_expression",
    "augmented_assignment_expression", "binary_expression", "boolean", "break_statement", "cast_expression", "cast_type",
    "catch_clause", "class_constant_access_expression", "comment", "compound_statement", "conditional_expression",
    "const_declaration", "const_element", "continue_statement", "echo_statement", "else_clause", "else_if_clause",
    "encapsed_string", "error_suppression_expression", "escape_sequence", "exit_statement", "expression_statement", "float",
    "for_statement", "foreach_statement", "formal_parameters", "function_call_expression", "function_definition",
    "if_statement", "integer", "member_access_expression", "member_call_expression", "name", "named_type", "null",
    "object_creation_expression", "pair", "parenthesized_expression", "php_tag", "primitive_type", "program",
    "reference_modifier", "return_statement", "scoped_call_expression", "simple_parameter", "string", "string_content", "subscript_expression",
    "throw_expression",
    "try_statement", "type_list", "unary_op_expression", "update_expression", "variable_name", "while_statement",
}  # fmt: skip
# PHP's own functions that are used; each was there in 7.2 (php.net's function reference names the version of each).
FUNCTIONS = {
    "abs", "array_column", "array_diff", "array_diff_key", "array_keys", "array_search", "array_slice", "array_values", "gzencode", "hex2bin", "max",
    "base64_encode", "bin2hex", "chmod", "class_exists", "clearstatcache", "count", "curl_errno",
    "curl_error", "curl_exec", "curl_getinfo", "curl_init", "curl_setopt", "decoct", "dirname", "disk_free_space", "empty",
    "error_reporting", "explode", "fclose", "feof", "fflush", "file_exists", "file_get_contents", "file_put_contents",
    "fileowner", "fileperms", "filesize", "ftruncate", "glob", "ksort", "implode", "stream_get_meta_data", "flock", "fopen", "fread", "fseek", "function_exists", "fwrite", "hash_final", "hash_init", "hash_update", "inflate_add", "inflate_get_read_len",
    "inflate_get_status", "inflate_init", "min", "octdec", "get_loaded_extensions",
    "gethostbyname", "hash_equals", "hash_file", "hash_hmac", "header", "http_response_code", "in_array", "ini_get",
    "ini_get_all", "ini_set", "is_array", "is_dir", "is_link", "isset", "json_decode", "json_encode", "microtime", "mkdir",
    "opcache_get_status", "openssl_digest", "readlink", "symlink", "parse_url", "posix_geteuid", "posix_getpwuid", "preg_match", "random_bytes", "realpath", "rmdir", "rtrim",
    "sort", "str_replace", "strcmp", "stream_context_create", "stream_copy_to_stream", "stream_get_contents", "stream_set_timeout",
    "stream_socket_client", "strlen", "strpos", "substr", "sys_get_temp_dir", "tempnam", "time", "unlink",
}  # fmt: skip
TYPES = {"array", "string", "int", "float", "bool", "void"}
# Since 7.2, the newest there is in it.
CONSTANTS = {"JSON_INVALID_UTF8_SUBSTITUTE", "JSON_PARTIAL_OUTPUT_ON_ERROR"}
RUNS_WHAT_IT_IS_GIVEN = {
    "eval", "exec", "system", "passthru", "shell_exec", "popen", "proc_open", "pcntl_exec", "assert", "create_function",
    "call_user_func", "call_user_func_array", "base64_decode", "gzinflate", "str_rot13", "unserialize", "extract", "mail",
    "move_uploaded_file", "preg_replace",
}  # fmt: skip


def source(capability: str) -> str:
    text = source_of(capability)
    return text.replace("%KEY%", "k").replace("%UNTIL%", "1").replace("%USES%", "9").replace("%FOLDERS%", "'.', '..'")


def nodes(capability: str) -> Iterator[Node]:
    waiting = [PARSER.parse(source(capability).encode()).root_node]
    while waiting:
        node = waiting.pop()
        yield node
        waiting += node.children


def text(node: Node | None) -> str:
    return node.text.decode() if node is not None and node.text is not None else ""


def newer_than_7_2(node: Node) -> str:
    """What in this node PHP 7.2 would not take, or ""."""
    if node.is_named and node.type not in NODES:
        return f"{node.type}: {text(node)[:60]}"
    if node.type == "function_call_expression":
        name = text(node.child_by_field_name("function"))
        if name not in FUNCTIONS and not name.startswith(
            ("helper_", "host_", "database_", "dump_", "fetch_", "tree_", "untar_", "join_")
        ):
            return f"the function {name}"
    if node.type == "throw_expression" and (node.parent is None or node.parent.type != "expression_statement"):
        return "a throw inside an expression (8.0)"
    if node.type == "primitive_type" and text(node) not in TYPES:
        return f"the type {text(node)}"
    if node.type in ("arguments", "formal_parameters") and [text(c) for c in node.children[-2:]] == [",", ")"]:
        return "a comma after the last argument (7.3)"
    if node.type == "argument" and node.child_by_field_name("name") is not None:
        return "a named argument (8.0)"
    if node.type in ("integer", "float") and "_" in text(node):
        return "a number with underscores (7.4)"
    if node.type == "augmented_assignment_expression" and "??=" in text(node):
        return "??= (7.4)"
    if node.type == "catch_clause" and not any(c.type == "variable_name" for c in node.children):
        return "a catch without its variable (8.0)"
    return ""


@pytest.mark.parametrize("capability", PARTS)
def test_it_is_php_of_7_2_at_the_newest(capability: str) -> None:
    assert not PARSER.parse(source(capability).encode()).root_node.has_error
    assert [found for node in nodes(capability) if (found := newer_than_7_2(node))] == []
    quoted = {text(n) for n in nodes(capability) if n.type == "name" and text(n).startswith("JSON_")}
    assert quoted <= CONSTANTS


@pytest.mark.parametrize(
    "newer",
    [
        "$f = fn($x) => $x;", "$a ??= 1;", "f($a, );", "$a?->b();", "$x = match(1) { default => 2 };", "f(name: 1);",
        "function g(mixed $a) {}", "try { f(); } catch (Exception) { }", "$n = 1_000;", "#[Note]\nfunction g() {}",
        "enum Tide { case High; }", "function g(int|string $a) {}", "str_contains('a', 'b');", "$a = [...$b];",
        "class A { public int $x; }", "$x = $y ?: throw new E();", "$x = f(...);", "$a = <<<T\n  x\n  T;", "array_key_first([]);",
    ],
)  # fmt: skip
def test_the_check_would_see_what_is_newer(newer: str) -> None:
    waiting = [PARSER.parse(f"<?php\n{newer}\n".encode()).root_node]
    seen = []
    while waiting:
        node = waiting.pop()
        seen.append(newer_than_7_2(node))
        waiting += node.children
    assert any(seen)


@pytest.mark.parametrize("capability", PARTS)
def test_it_runs_nothing_that_it_is_given_and_can_be_read(capability: str) -> None:
    called = {
        text(n.child_by_field_name("function")) for n in nodes(capability) if n.type == "function_call_expression"
    }
    assert called & RUNS_WHAT_IT_IS_GIVEN == set()
    kinds = {n.type for n in nodes(capability)}
    assert (
        kinds
        & {
            "include_expression",
            "require_expression",
            "include_once_expression",
            "require_once_expression",
            "shell_command_expression",
            "dynamic_variable_name",
        }
        == set()
    )
    # A function is called by its name, never by what stands in a variable.
    targets = {n.child_by_field_name("function") for n in nodes(capability) if n.type == "function_call_expression"}
    assert {t.type for t in targets if t is not None} == {"name"}
    assert max(len(line) for line in source(capability).splitlines()) < 240
    assert "A helper of High Shelf" in source(capability) and "You may delete it" in source(capability)
